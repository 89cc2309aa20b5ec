"""Processes with files: charts and negatives at their exact size, process files, CGATS.17, the bench darkroom."""

import contextlib
import json
import random

import cv2
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.paper.layout import laid
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.chart import film_of
from kyanoscript.core.print.film import film_sheet
from kyanoscript.core.process import chart as charts
from kyanoscript.core.process.aims import aimed, density_from
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import wedge
from kyanoscript.core.process.darkroom import Scanner
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.core.process.taken import taken
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept import cgats, processfile
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints import chartfiles
from kyanoscript.files.prints.negatives import AsNegative, remarks_before
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.standins import darkroom

P = load_all()


@pytest.fixture(autouse=True)
def _own_data(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "data"))


@pytest.fixture(scope="module")
def measured():
    """A cyanotype as anybody would measure it."""
    process = Process(name="Blue", minutes=12, ink="#c8c800", paper="cotton")
    _, scan = darkroom.practised(process, BATHS["cyanotype"], wedge(21), False)
    return taken(process, scan)[0]


@pytest.fixture(scope="module")
def photo(tmp_path_factory):
    path = tmp_path_factory.mktemp("negatives") / "ramp.png"
    cv2.imwrite(str(path), np.linspace(0, 65535, 300).astype(np.uint16)[None].repeat(200, axis=0))
    return open_photo(path)


FILM = Sheet.of(width=200, height=150, across=120, middle=True, resolution=127, sharpen=0)


def negative(photo, processes, target, **more):
    script = more.pop("script", Script(()))
    sheet = more.pop("sheet", FILM)
    return Out(photo, script, Pictures(photo.path, None), target, AsNegative(sheet, processes, **more))


def write_negatives(out):
    """The files, and their size in pixels."""
    made = write(out)
    return made.files, (made.width, made.height)


# Charts


@pytest.mark.parametrize("ending", ["tif", "png", "pdf"])
def test_a_chart_is_written_at_its_exact_size_without_a_profile(tmp_path, ending):
    path, chart = tmp_path / f"wedge.{ending}", wedge(21)
    size = chartfiles.write_chart(path, chart, Process(), 360)
    assert size == (round(chart.width / 25.4 * 360), round(chart.height / 25.4 * 360))
    if ending == "pdf":
        with pikepdf.open(path) as pdf:
            box = [float(v) for v in pdf.pages[0].MediaBox]
            assert box[2] / 72 * 25.4 == pytest.approx(chart.width, abs=0.05)
            assert box[3] / 72 * 25.4 == pytest.approx(chart.height, abs=0.05)
            image = pdf.pages[0].Resources.XObject.Print
            assert image.ColorSpace == pikepdf.Name.DeviceGray
            assert "/OutputIntents" not in pdf.Root
    else:
        with Image.open(path) as image:
            assert image.info["dpi"][0] == pytest.approx(360, abs=0.1)
            assert "icc_profile" not in image.info


def test_filter_inks_are_on_the_film_as_they_are_whatever_the_process_has():
    chart = charts.inks()
    film = film_of(chart, Process(ink="#c8c800", mirrored=False), 100)
    whole = film.region(Rect(0, 0, *film.size(1.0)))
    for patch in chart.patches:
        y, x = (round((start + side / 2) * 100 / 25.4) for start, side in
                ((patch.box.y, patch.box.height), (patch.box.x, patch.box.width)))  # fmt: skip
        assert np.rint(whole[:, y, x] * 255) == pytest.approx([int(patch.colour[k : k + 2], 16) for k in (1, 3, 5)])
    assert whole[:, 2, 2].max() == 0  # the paper round them stays white


def test_a_written_chart_can_be_exposed_scanned_and_read(tmp_path):
    chartfiles.write_chart(tmp_path / "film.tif", wedge(31), Process(), 300)
    light, ppi = darkroom.exposed(tmp_path / "film.tif", BATHS["gum"])
    darkroom.write_scan(tmp_path / "scan.jpg", light, ppi, BATHS["gum"], Scanner(turn=178, ppi=150))
    scan = chartfiles.read_scan(tmp_path / "scan.jpg")
    assert scan.chart is wedge(31)
    assert len(scan.good) >= 122
    assert not scan.mirrored  # the film was, and the contact print turned it back
    assert abs(scan.turned) == pytest.approx(178, abs=1)


def test_a_large_scan_is_read_from_a_smaller_one_and_its_squares_lie_in_the_large(tmp_path):
    film = film_of(wedge(11), Process(mirrored=False), 150)
    whole = 1 - film.region(Rect(0, 0, *film.size(1.0)))[0]
    large = cv2.resize(whole, None, fx=10, fy=10, interpolation=cv2.INTER_NEAREST)
    cv2.imwrite(str(tmp_path / "large.png"), np.rint(large * 255).astype(np.uint8))
    scan = chartfiles.read_scan(tmp_path / "large.png")
    assert max(large.shape) > 7000
    for one in scan.patches[:10]:
        middle = np.mean(one.corners, axis=0) / 1500 * 25.4
        box = one.patch.box
        assert middle == pytest.approx([box.x + box.width / 2, box.y + box.height / 2], abs=0.1)


@pytest.mark.parametrize(("what", "words"), [
    (lambda path: path.write_bytes(b"no picture"), "scan.jpg: "),
    (lambda path: cv2.imwrite(str(path), np.full((500, 400, 3), 200, np.uint8)), "there is no chart in this picture"),
])  # fmt: skip
def test_what_is_no_scan_is_refused_with_its_name(tmp_path, what, words):
    what(tmp_path / "scan.jpg")
    with pytest.raises(FileError, match=words):
        chartfiles.read_scan(tmp_path / "scan.jpg")


# Process files


def test_a_process_comes_back_as_it_was_and_tells_others_its_curve(tmp_path, measured):
    path = tmp_path / "blue.process.json"
    processfile.write_process(path, measured)
    assert processfile.read_process(path) == measured
    data = json.loads(path.read_text())
    assert len(data["curve"]) == 101
    assert data["white"][0] == pytest.approx(95.5, abs=0.5)
    assert data["deepest"][0] < 30


def test_the_schema_says_what_a_process_file_is(tmp_path, measured):
    from kyanoscript.core.script.schema import process_schema

    schema = process_schema()
    processfile.write_process(tmp_path / "a.json", measured)
    data = json.loads((tmp_path / "a.json").read_text())
    assert set(data) <= set(schema["properties"])
    own = schema["properties"]["process"]["properties"]
    assert set(data["process"]) <= set(own)
    assert own["minutes"]["minimum"] == Process.number("minutes").low
    assert own["readings"]["items"]["oneOf"][0]["properties"]["value"]["maximum"] == 100


@pytest.mark.parametrize(("text", "words"), [
    ('{"kyanoscript process": 1, "process": {"name": "Bl', "damaged or cut short"),
    ("once upon a time", "this is no process"), ("[]", "this is no process"), ('{"process": {}}', "this is no process"),
    ('{"kyanoscript process": 9, "process": {}}', "a newer version"),
    ('{"kyanoscript process": 1, "process": {"minutes": -3}}', r"minutes is -3; it must be 0.01…10000 min"),
    ('{"kyanoscript process": 1, "process": {"inks": "#fff"}}', "inks is unknown; did you mean 'ink'"),
    ('{"kyanoscript process": 1, "process": {"readings": [{"value": 200, "lightness": 3}]}}', "entry 1"),
])  # fmt: skip
def test_a_file_that_is_none_is_named_with_what_is_wrong(tmp_path, text, words):
    path = tmp_path / "odd.process.json"
    path.write_text(text)
    with pytest.raises(FileError, match=words) as raised:
        processfile.read_process(path)
    assert str(raised.value).startswith("odd.process.json")


def test_kept_ones_are_found_by_name_and_a_damaged_one_is_named_and_skipped(measured):
    processfile.keep(measured)
    (processfile.folder() / "broken.process.json").write_text("{")
    found, broken = processfile.kept()
    assert [process.name for process in found] == ["Blue"]
    assert broken == ["broken.process.json: it is damaged or cut short. Look for another copy of it, or read the wedge "
                      "again; it is left out"]  # fmt: skip
    assert processfile.named("blue") == measured
    processfile.remove(measured)
    with pytest.raises(FileError, match=r"there is no process of that name\. There are Cyanotype, Platinum"):
        processfile.named("blue")


def test_those_that_ship_are_measured_and_proved():
    demos = {process.name: process for process in processfile.demos()}
    assert set(demos) == {"Cyanotype", "Platinum"}
    for process in demos.values():
        assert process.stale() == []
        assert len(process.readings) == 84
        assert process.scale() > 1
        assert process.left()
    scan = chartfiles.read_scan(processfile.demo_folder() / "Cyanotype.scan.jpg")
    off = [abs(one.lab[0] - kept.lightness) for one, kept in
           zip(scan.patches, demos["Cyanotype"].readings, strict=True)]  # fmt: skip
    assert np.median(off) < 0.3  # of the very scan, but for its JPEG


# Readings as text


def test_cgats_goes_both_ways(tmp_path, measured):
    """CGATS.17 (ISO 28178): fields by name, rows, their number."""
    path = tmp_path / "blue.txt"
    cgats.write_readings(path, measured)
    text = path.read_text()
    assert text.startswith("CGATS.17\n")
    assert "NUMBER_OF_SETS 84" in text
    back = cgats.read_readings(path)
    for one, other in zip(measured.readings, back, strict=True):
        assert (other.value, other.lightness, other.a, other.b) == pytest.approx(
            (one.value, one.lightness, one.a, one.b), abs=1e-4
        )


HEAD = "CGATS.17\nNUMBER_OF_FIELDS 2\nBEGIN_DATA_FORMAT\n{}\nEND_DATA_FORMAT\n"


@pytest.mark.parametrize(("fields", "row", "value", "light"), [
    ("GRAY LAB_L", "30 61.5", 70, 61.5),  # GRAY counts light
    ("CMYK_K D_VIS", "30 0.75", 30, 49.23), ("SAMPLE_ID GRAY_STEP XYZ_Y", '"A 1" 30 18.42', 30, 50.0),
])  # fmt: skip
def test_fields_of_others_are_understood(fields, row, value, light):
    text = HEAD.format(fields) + f"NUMBER_OF_SETS 1\nBEGIN_DATA\n{row}\nEND_DATA\n"
    (one,) = cgats.parsed(text)
    assert one.value == value
    assert one.lightness == pytest.approx(light, abs=0.01)


@pytest.mark.parametrize(("text", "words"), [
    ("BEGIN_DATA\n1 2\nEND_DATA", "it names no fields"),
    (HEAD.format("GRAY LAB_L") + "BEGIN_DATA\n1 2\n", "it is cut short"),
    (HEAD.format("GRAY LAB_L") + "NUMBER_OF_SETS 2\nBEGIN_DATA\n1 2\nEND_DATA", "2 rows are told, and 1 are there"),
    (HEAD.format("GRAY TASTE") + "BEGIN_DATA\n1 2\nEND_DATA", "a field is missing: what was read"),
    (HEAD.format("SEED LAB_L") + "BEGIN_DATA\n1 2\nEND_DATA", "a field is missing: the wedge's value"),
    (HEAD.format("GRAY LAB_L") + "BEGIN_DATA\n1 2 3\nEND_DATA", "row 1 has 3 fields, and 2 are named"),
    (HEAD.format("GRAY LAB_L") + "BEGIN_DATA\n1 two\nEND_DATA", "row 1 has a word"),
    ("95\ndark\n", "line 2 is 'dark'"), ("95 1 2\n3 4 5", "one number in every line"),
    ("95\n", "no wedge"), ("", "must be"),
    ("0 95\n130 20", "a value of the wedge is 130"), ("95\n-4", "a reading is -4"),
])  # fmt: skip
def test_lists_that_are_wrong_are_refused_in_words(text, words):
    with pytest.raises(ValueError, match=words):
        cgats.parsed(text)


def mutated(data, rng):
    """A file as a bad disk or a bad program would leave it."""
    data = bytearray(data)
    for _ in range(rng.randint(1, 8)):
        at, kind = rng.randrange(len(data)), rng.randrange(4)
        if kind == 0:
            data[at] = rng.randrange(256)
        elif kind == 1:
            del data[at : at + rng.randint(1, 40)]
        elif kind == 2:
            data[at:at] = data[max(0, at - 30) : at]
        else:
            data = data[: max(1, at)]
        data = data or bytearray(b"x")
    return bytes(data)


@pytest.mark.parametrize("seed", range(40))
def test_damaged_files_are_read_or_refused_in_one_line(seed, tmp_path):
    rng = random.Random(seed)
    process = processfile.demos()[0]
    platinum = (processfile.demo_folder() / "Platinum.process.json").read_bytes()
    for source, read in ((cgats.written(process).encode(), cgats.read_readings), (platinum, processfile.read_process)):
        path, found, said = tmp_path / "odd.txt", None, "odd.txt: "
        path.write_bytes(mutated(source, rng))
        try:
            found = read(path)
        except FileError as error:
            said = str(error)
        assert said.startswith("odd.txt: ")
        assert "\n" not in said
        with contextlib.suppress(ValueError):  # of readings that make no curve
            (process.read(found) if isinstance(found, tuple) else found or process).curve()


def test_typed_values_are_taken_for_what_they_look_like():
    assert [one.value for one in cgats.parsed("95\n60\n20")] == [0, 50, 100]
    assert [one.lightness for one in cgats.parsed("0.15\n0,75\n1.5")] == pytest.approx([87.39, 49.23, 20.68], abs=0.01)
    assert cgats.parsed("90; 80; 30")[2].lightness == 30
    assert cgats.typed("90\n18.42", "reflectance")[1].lightness == pytest.approx(50, abs=0.01)


def test_the_bench_densitometer_reads_to_a_hundredth():
    chart, bath = wedge(21), BATHS["platinum"]
    film = film_of(chart, Process(mirrored=False), 200)
    planes = film.region(Rect(0, 0, *film.size(1.0)))
    rows = [list(darkroom.densitometer(bath, chart, planes, 200, seed=seed)) for seed in range(6)]
    values = np.array([[density for _, density in row] for row in rows])
    assert np.std(values, axis=0).mean() == pytest.approx(0.01, rel=0.3)
    assert values.max() == pytest.approx(bath.density + density_from(bath.paper[0]), abs=0.08)


# Negatives


def test_a_negative_prints_the_aim(photo, tmp_path, measured):
    """Through the film, the light and the process the print has the L* that the aim asked for, tone by tone."""
    job = negative(photo, (measured,), tmp_path / "n.tif", rim=False)
    written, size = write_negatives(job)
    assert size == (1000, 750)
    light, ppi = darkroom.exposed(written[0], BATHS["cyanotype"], measured.minutes, seed=None)
    place = laid(FILM, 1.5).prints[0]
    y = round((place.y + place.height / 2) * ppi / 25.4)
    x0, x1 = round(place.x * ppi / 25.4), round(place.right * ppi / 25.4)
    from kyanoscript.core.colour import SRGB, lightness
    from kyanoscript.core.process.aims import lightness_from_y

    got = lightness_from_y(np.tensordot(SRGB.luminance, light[:, y, x0:x1], 1))
    gray = np.interp(np.arange(x1 - x0) + 0.5, [0.5, x1 - x0 - 0.5], [0, 1])
    found = measured.response()
    wanted = aimed("lightness", 100 - lightness(gray[None], SRGB), found.white, found.deepest)
    off = np.abs(got - wanted)[3:-3]
    assert np.percentile(off, 95) < 1.5
    assert (np.diff(got[5:-5:5]) > -0.3).all()


def test_it_is_mirrored_in_its_ink_with_a_rim_and_without_a_profile(photo, tmp_path, measured):
    written, _ = write_negatives(negative(photo, (measured,), tmp_path / "n.tif"))
    with tifffile.TiffFile(written[0]) as tiff:
        page = tiff.pages[0]
        assert 34675 not in page.tags
        assert page.dtype == "uint16"
        film = page.asarray() / 65535
    assert film.shape == (750, 1000, 3)
    place = laid(FILM, 1.5).prints[0]
    left, right = round(place.x * 5), round(place.right * 5)
    y = round((place.y + place.height / 2) * 5)
    row = film[y, left + 2 : right - 2]
    assert row[0, 2] < row[-1, 2] - 0.4  # the light end, dense in the yellow ink, lies at the left: mirrored
    assert np.abs(row[:, 0] - (1 - (1 - 200 / 255) * (1 - row[:, 2]))).max() < 2e-4  # so much red for so little blue
    rim = film.copy()
    rim[round(place.y * 5) - 1 : round(place.bottom * 5) + 1, left - 1 : right + 1] = 1
    assert (rim < 0.5).any()  # marks, words, wedge
    bare, _ = write_negatives(negative(photo, (measured,), tmp_path / "bare.tif", rim=False))
    plain = tifffile.imread(bare[0]) / 65535
    plain[round(place.y * 5) - 1 : round(place.bottom * 5) + 1, left - 1 : right + 1] = 1
    assert (plain == 1).all()


def test_the_wedge_on_the_rim_goes_through_the_curve(photo, tmp_path, measured):
    sheet = FILM.with_values(wedge=True, steps=5)
    written, _ = write_negatives(negative(photo, (measured,), tmp_path / "n.tif", sheet=sheet))
    film = tifffile.imread(written[0])[:, ::-1] / 65535
    from kyanoscript.core.colour import SRGB, lightness

    for box, level in laid(film_sheet(sheet, measured), 1.5).wedge:
        tone = 100 - lightness(np.array([[level]]), SRGB)[0]
        value = np.interp(tone, np.linspace(0, 100, 4097), measured.curve())
        at = film[round((box.y + box.height / 2) * 5), round((box.x + box.width / 2) * 5), 2]
        assert at == pytest.approx(value / 100, abs=2e-3)


def test_each_ink_has_a_negative_of_its_own_registered(photo, tmp_path, measured):
    script = Script((P["inks"](**P["inks"].starts["two inks: black and warm gray"]),))
    other = measured.with_(name="Brown", ink="#000000")
    written, size = write_negatives(negative(photo, (measured, other), tmp_path / "gum.tif", script=script))
    assert [path.name for path in written] == ["gum-ink-1.tif", "gum-ink-2.tif"]
    one, two = (tifffile.imread(path) for path in written)
    assert one.shape == (*size[::-1], 3)
    assert two.shape == size[::-1]
    place = laid(FILM, 1.5).prints[0]
    marks = [(film if film.ndim == 2 else film[..., 2]) < 20_000 for film in (one, two)]
    strip = slice(0, round(place.x * 5) - 5)
    assert np.array_equal(marks[0][:, strip], marks[1][:, strip])  # the mark beside the print, at the same pixels
    assert marks[0][:, strip].any()
    with pytest.raises(ValueError, match="2 inks and 3 processes"):
        write_negatives(negative(photo, (measured,) * 3, tmp_path / "x.tif", script=script))


def test_a_negative_larger_than_the_film_is_refused_in_words(photo, tmp_path, measured):
    sheet = FILM.with_values(across=250.0)
    words = "250 mm × 166.7 mm and reaches beyond the film, which is 200 mm × 150 mm"
    with pytest.raises(ValueError, match=words):
        write_negatives(negative(photo, (measured,), tmp_path / "n.tif", sheet=sheet))
    assert not (tmp_path / "n.tif").exists()
    with pytest.raises(FileError, match="a negative is not written as that"):
        write_negatives(negative(photo, (measured,), tmp_path / "n.jpg"))


def test_what_should_be_known_is_said(photo, tmp_path, measured):
    said = remarks_before(negative(photo, (measured.with_(aim="baryta", ink="#000000"),), tmp_path / "n.tif"))
    assert "read in the ink #c8c800, and not in #000000" in said[0]
    assert "run together" in said[1]
    assert "no readings yet" in remarks_before(negative(photo, (Process(),), tmp_path / "n.tif"))[0]


def test_a_print_in_ink_is_no_negative_and_not_mirrored(photo, tmp_path):
    straight = Process(negative=False, readings=tuple(Reading(value=v, lightness=95 - 0.8 * v)
                                                     for v in np.linspace(0, 100, 11)))  # fmt: skip
    written, _ = write_negatives(negative(photo, (straight,), tmp_path / "p.tif", rim=False))
    film = tifffile.imread(written[0]) / 65535
    place = laid(FILM, 1.5).prints[0]
    row = film[375, round(place.x * 5) + 5 : round(place.right * 5) - 5]
    assert row[0] < 0.1
    assert row[-1] > 0.95


def test_the_demo_negative_prints_as_the_landing(tmp_path):
    """The finished one that ships, exposed: light where the print is, and right reading."""
    film = processfile.demo_folder().parent / "films" / "ferry-landing-negative.png"
    process = processfile.named("Cyanotype")
    light, ppi = darkroom.exposed(film, BATHS["cyanotype"], process.minutes)
    from kyanoscript import demo
    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import loads

    print_ = demo.finished("cyanotype")
    script = loads(print_.script.read_text())
    place = laid(script.sheets[0][1], 1.5).prints[0]
    rows, columns = (slice(round(start * ppi / 25.4) + 2, round(end * ppi / 25.4) - 2) for start, end in
                     ((place.y, place.bottom), (place.x, place.right)))  # fmt: skip
    made = light[:, rows, columns].mean(axis=0)
    renderer = Renderer(open_photo(print_.photo).source, script)
    scale = made.shape[1] / renderer.size(1.0)[0]
    planes = renderer.region(Rect(0, 0, *renderer.size(scale)), scale)
    asked = cv2.resize(planes.mean(axis=0), made.shape[::-1])
    assert np.corrcoef(made.ravel(), asked.ravel())[0, 1] > 0.95
