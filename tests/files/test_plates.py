"""Ink plates: linear, named, registered, and together the print."""

import threading
import time
from dataclasses import replace

import cv2
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.colour import SRGB, lightness, to_light
from kyanoscript.core.paper.screens import Screen
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.plates import Making, dots_of, left_out, plates_of, printing, together
from kyanoscript.core.print.reckoned import Press
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.plates import InPlates
from kyanoscript.files.prints.settings import Settings

P = load_all()
# Inks as they are by the formula alone: what paper and press do to them is told beside the plates
STARTS = {name: {"of": 1, **values} for name, values in P["inks"].starts.items() if not {"by", "spreading"} & {*values}}


@pytest.fixture(scope="module")
def photo(tmp_path_factory):
    path = tmp_path_factory.mktemp("plates") / "ramp.png"
    ramp = np.linspace(0, 65535, 360).astype(np.uint16)[None].repeat(700, axis=0)
    cv2.imwrite(str(path), ramp)
    return open_photo(path)


def job(photo, start="two inks: black and warm gray", before=(), after=(), bits=16, **more):
    return of(photo, Script((*before, P["inks"](**STARTS[start]), *after)), bits, **more)


def of(photo, script, bits=16, **more):
    what = InPlates(Making(**more))
    return Out(photo, script, Pictures(photo.path, None), photo.path.with_name("x.tif"), what, Settings(bits=bits))


def write_plates(what, path, told=lambda share: None, stopping=lambda: False, separated=False):
    """The files that were written."""
    out = replace(what, target=path, what=replace(what.what, separated=separated))
    return write(out, Progress(told, stopping)).files


def renderers(what):
    return [page.of for page in what.pages()]


@pytest.mark.parametrize("start", STARTS)
@pytest.mark.parametrize("bits", [8, 16])
def test_plates_put_together_are_the_print(photo, tmp_path, start, bits):
    """Within 1/255, as the ink model says: of the very files. Of eight bits in light, where their steps are even."""
    what = job(photo, start, bits=bits)
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        pages = np.stack([page.asarray() for page in tiff.pages]) / np.iinfo(np.uint16 if bits == 16 else np.uint8).max
    print_ = Renderer(photo.source, what.script).region(Rect(0, 0, 360, 700))
    made = together(pages, what.script.passes[-1])
    if bits == 16:
        assert np.abs(made - print_).max() <= 1 / 255
    assert np.abs(to_light(made) - to_light(print_)).max() <= len(pages) / 255


def test_coverage_is_linear_and_without_a_profile(photo, tmp_path):
    """Half covered is 127.5 of 255: where the one black ink of a straight curve prints half of the light."""
    what = job(photo, "one ink", bits=16)
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        page = tiff.pages[0]
        plate = page.asarray()[0] / 65535
        assert page.photometric == tifffile.PHOTOMETRIC.MINISBLACK
        assert 34675 not in page.tags
    gray = np.linspace(0, 1, 360)
    light = np.where(gray <= 0.04045, gray / 12.92, ((gray + 0.055) / 1.055) ** 2.4)  # IEC 61966-2-1
    assert np.abs(plate - light).max() < 1e-3
    assert plate[np.abs(light - 0.5).argmin()] * 255 == pytest.approx(127.5, abs=0.7)


def test_pages_are_named_and_files_of_a_folder_too(photo, tmp_path):
    what = job(photo, "three inks: black, blue, ochre")
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        names = [page.tags[285].value for page in tiff.pages]
        whole = [page.asarray() for page in tiff.pages]
    assert names == ["ink 1 #15171c", "ink 2 #4f6f96", "ink 3 #c99a52"]
    assert [plate.name for plate in plates_of(what.script)] == names
    written = write_plates(what, tmp_path / "folder")
    assert [path.name for path in written] == [f"ramp-ink-{k}-{c}.tif" for k, c in
                                               ((1, "15171c"), (2, "4f6f96"), (3, "c99a52"))]  # fmt: skip
    for path, page in zip(written, whole, strict=True):
        assert np.array_equal(tifffile.imread(path), page)
    assert whole[0].dtype == np.uint16


def test_four_inks_make_a_separated_tiff_and_fewer_do_not(photo, tmp_path):
    four = job(photo, "four inks: black to pale gray")
    write_plates(four, tmp_path / "a.tif", separated=True)
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        page = tiff.pages[0]
        assert page.photometric == tifffile.PHOTOMETRIC.SEPARATED
        assert page.tags[332].value == 2  # not CMYK
        assert page.tags[334].value == 4
        assert page.tags[333].value.split("\0")[0] == "ink 1 #121212"
        inks = page.asarray()
    write_plates(four, tmp_path / "pages.tif")
    with tifffile.TiffFile(tmp_path / "pages.tif") as tiff:
        pages = np.stack([page.asarray() for page in tiff.pages], axis=-1)
    assert np.abs(inks.astype(int) - (65535 - pages.astype(int))).max() <= 1  # a half is rounded one way in each
    with pytest.raises(ValueError, match="four inks"):
        write_plates(job(photo), tmp_path / "b.tif", separated=True)


def test_plates_on_a_sheet_register_to_the_pixel(photo, tmp_path):
    sheet = Sheet.of(
        width=120, height=160, across=60, middle=True, resolution=150, registers=True, cuts=True, caption="Ramp"
    )
    what = job(photo, "three inks: black, blue, ochre", sheet=sheet)
    leaves = renderers(what)
    size = leaves[0].size(1.0)
    assert size == (709, 945)
    pictures = [leaf.region(Rect(0, 0, *size))[0] for leaf in leaves]
    box = leaves[0].prints
    outside = np.ones(pictures[0].shape, bool)
    outside[box.y : box.bottom, box.x : box.right] = False
    assert (pictures[0][outside] == 0).sum() > 500  # marks in full ink
    for other in pictures[1:]:
        assert np.array_equal(pictures[0][outside], other[outside])
    inside = [p[box.y : box.bottom, box.x : box.right] for p in pictures]
    assert np.abs(inside[0] - inside[1]).max() > 0.2
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert len(tiff.pages) == 3
        assert tiff.pages[0].shape == (945, 709)


def test_what_comes_after_the_inks_is_on_no_plate_and_told(photo):
    what = job(photo, before=(P["levels"](gamma=1.3),), after=(P["vignette"](), P["grain"](on=False)))
    assert left_out(what.script) == ["Vignette comes after the inks, and is on no plate"]
    assert left_out(job(photo).script) == []
    for half in ({"strength": 50}, {"blend": "multiply"}, {"stencil": "sky"}):
        mixed = Script((P["inks"](**STARTS["one ink"], **half),))
        assert "at full strength everywhere" in left_out(mixed)[0]


def test_a_script_without_inks_is_refused_in_words(photo, tmp_path):
    bare = of(photo, Script((P["levels"](),)))
    with pytest.raises(ValueError, match="prints in inks"):
        write_plates(bare, tmp_path / "a.tif")


def test_nothing_is_left_of_plates_that_are_stopped(photo, tmp_path):
    shares = []
    with pytest.raises(Cancelled):
        write_plates(job(photo), tmp_path / "a.tif", shares.append, lambda: len(shares) > 1)
    assert list(tmp_path.iterdir()) == []
    assert shares == sorted(shares)


def test_plates_are_not_written_over_the_photograph_nor_as_anything(photo, tmp_path):
    with pytest.raises(FileError, match=r"not written as that"):
        write_plates(job(photo), tmp_path / "a.jpg")
    (tmp_path / "taken").write_text("a file")
    with pytest.raises(FileError, match="taken"):
        write_plates(job(photo), tmp_path / "taken")


# Taken apart, trapped, knocked out


@pytest.mark.parametrize(("kind", "start"), [("quad-tone", "cool blacks, cream whites"),
                                             ("split-tone", "green darks, rose lights")])  # fmt: skip
def test_a_quad_tone_taken_apart_comes_together_again(photo, tmp_path, kind, start):
    """Four inks as plates, put together by the ink model: the print within 1/255."""
    step = P[kind](**P[kind].starts[start])
    what = of(photo, Script((step,)))
    assert len(plates_of(what.script)) == 4
    assert left_out(what.script) == []
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        pages = np.stack([page.asarray() for page in tiff.pages]) / 65535
    print_ = Renderer(photo.source, what.script).region(Rect(0, 0, 360, 700))
    assert np.abs(together(pages, step) - print_).max() <= 1 / 255


def test_what_no_plate_of_a_quad_tone_has_is_told(photo):
    step = P["quad-tone"](**P["quad-tone"].starts["cool blacks, cream whites"], keep=20)
    assert "the colour that the pass keeps is on no plate" in left_out(Script((step,)))


@pytest.fixture(scope="module")
def edge(tmp_path_factory):
    """Light at the left, dark at the right."""
    path = tmp_path_factory.mktemp("edge") / "edge.png"
    picture = np.full((120, 200), 52_000, np.uint16)
    picture[:, 100:] = 3_000
    cv2.imwrite(str(path), picture)
    return open_photo(path)


def plates_at(edge, **more):
    """Coverage across the edge, of both inks."""
    what = job(edge, "two inks: black and warm gray", ppi=254.0, **more)
    return [1 - one.region(Rect(0, 60, 200, 1))[0, 0] for one in renderers(what)]


def test_lighter_inks_are_knocked_out_where_darker_ones_lie(edge):
    black, gray = plates_at(edge)
    same, out = plates_at(edge, knock_out=True)
    assert np.array_equal(black, same)
    assert out == pytest.approx(gray * (1 - black), abs=1e-5)
    assert out[150] < 0.2 * gray[150]


def test_a_trap_spreads_the_lighter_beneath_the_darker_and_no_further(edge):
    """By 0.5 mm: five pixels of ten to the millimetre; the darker ink stays, and so does bare paper."""
    black, out = plates_at(edge, knock_out=True)
    same, trapped = plates_at(edge, knock_out=True, trap=0.5)
    assert np.array_equal(black, same)
    wider = np.flatnonzero(trapped > out + 0.02)
    assert wider.min() == 100
    assert wider.max() == 104
    assert trapped[100:105] == pytest.approx(np.minimum(out[99], black[100:105]), abs=1e-4)
    assert np.array_equal(trapped[:100], out[:100])
    with pytest.raises(ValueError, match=r"a trap of 0.7 mm cannot be; 0…0.5 mm can"):
        plates_at(edge, trap=0.7)


def test_whoever_knocks_out_or_traps_is_told(edge):
    what = job(edge, knock_out=True)
    assert "another print than the one on the screen" in left_out(what.script, what.what.making)[0]


# In a PDF, and as dots


def test_plates_are_pages_of_a_pdf_at_their_size(photo, tmp_path):
    sheet = Sheet.of(width=120, height=160, across=60, middle=True, resolution=150, registers=True)
    what = job(photo, "three inks: black, blue, ochre", sheet=sheet)
    write_plates(what, tmp_path / "a.pdf")
    write_plates(what, tmp_path / "a.tif")
    with pikepdf.open(tmp_path / "a.pdf") as pdf, tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert len(pdf.pages) == 3
        labels = [str(label.P) for label in list(pdf.Root.PageLabels.Nums)[1::2]]
        assert labels == [plate.name for plate in plates_of(what.script)]
        for page, other in zip(pdf.pages, tiff.pages, strict=True):
            assert [float(v) / 72 * 25.4 for v in page.MediaBox][2:] == pytest.approx([120, 160], abs=0.1)
            image = page.Resources.XObject.Print
            assert image.ColorSpace == pikepdf.Name.DeviceGray
            pixels = np.frombuffer(image.read_bytes(), ">u2").reshape(int(image.Height), int(image.Width))
            assert np.array_equal(pixels, other.asarray())


DOTS = Screen("round", 60, ppi=600)


def test_how_far_dots_are_never_goes_back(photo, tmp_path):
    """Whichever thread says it, and however late."""
    sheet = Sheet.of(width=120, height=160, across=60, middle=True, resolution=150)
    writing, shares = threading.current_thread(), []

    def slow(share):
        if threading.current_thread() is not writing:
            time.sleep(0.01)
        shares.append(share)

    write_plates(job(photo, sheet=sheet, screen=DOTS), tmp_path / "a.tif", slow)
    assert shares == sorted(shares)
    assert shares[-1] == 1


def test_dots_are_one_bit_at_the_resolution_of_the_device_with_marks_to_its_pixel(photo, tmp_path):
    sheet = Sheet.of(width=120, height=160, across=60, middle=True, resolution=150, registers=True, cuts=True)
    what = job(photo, "two inks: black and warm gray", sheet=sheet, screen=DOTS)
    shares = []
    write_plates(what, tmp_path / "a.tif", shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1
    pages = []
    with Image.open(tmp_path / "a.tif") as image:
        assert image.n_frames == 2
        for k in range(2):
            image.seek(k)
            assert (image.mode, image.info["compression"]) == ("1", "group4")
            assert image.info["dpi"] == (600, 600)
            assert image.tag_v2[285] == plates_of(what.script)[k].name
            pages.append(~np.asarray(image))
    assert pages[0].shape == (3780, 2835)
    place = renderers(what)[0].prints
    inside = (slice(place.y, place.bottom), slice(place.x, place.right))
    outside = [page.copy() for page in pages]
    for page in outside:
        page[inside] = False
    assert outside[0].sum() > 1000
    assert np.array_equal(*outside)
    coarse = renderers(job(photo, "two inks: black and warm gray", sheet=sheet))[0]
    gray, box = 1 - coarse.region(Rect(0, 0, *coarse.size(1.0)))[0], coarse.prints
    wanted = gray[box.y : box.bottom, box.x : box.right].mean()
    assert pages[0][inside].mean() == pytest.approx(wanted, abs=0.004)


def test_dots_of_a_pdf_and_of_a_folder_are_the_same_dots(photo, tmp_path):
    what = job(photo, "two inks: black and warm gray", screen=DOTS, ppi=600.0)
    write_plates(what, tmp_path / "a.tif")
    write_plates(what, tmp_path / "a.pdf")
    files = write_plates(what, tmp_path / "folder")
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        image = pdf.pages[1].Resources.XObject.Print
        assert int(image.BitsPerComponent) == 1
        rows = np.frombuffer(image.read_bytes(), np.uint8).reshape(int(image.Height), -1)
        dots = np.unpackbits(rows, axis=1)[:, : int(image.Width)] == 0
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert np.array_equal(tiff.pages[1].asarray() > 0, dots)
    assert np.array_equal(tifffile.imread(files[1]) > 0, dots)


def test_dot_gain_is_held_back(photo, tmp_path):
    plain = job(photo, "one ink", screen=DOTS, ppi=600.0)
    less = job(photo, "one ink", screen=DOTS, ppi=600.0, press=Press((28.0,) * 4))
    means = []
    for what, name in ((plain, "a"), (less, "b")):
        write_plates(what, tmp_path / f"{name}.tif")
        means.append((tifffile.imread(tmp_path / f"{name}.tif") > 0).mean())
    assert means[1] < means[0] - 0.05


def test_inks_whose_dots_lie_too_near_are_told(photo):
    what = job(photo, "three inks: black, blue, ochre", screen=DOTS, angles=(45.0, 50.0, 15.0))
    assert any("5° apart" in line for line in left_out(what.script, what.what.making))
    assert not any("apart" in line for line in left_out(what.script, Making(screen=DOTS)))
    with pytest.raises(ValueError, match="2 angles were given, and there are 3 inks"):
        plates_of(what.script, Making(angles=(1.0, 2.0)))
    with pytest.raises(ValueError, match="a separated TIFF has four inks, and not dots"):
        write_plates(job(photo, "four inks: black to pale gray", screen=DOTS), photo.path.with_name("x.tif"),
                     separated=True)  # fmt: skip


def test_dots_that_are_stopped_leave_nothing(photo, tmp_path):
    shares = []
    with pytest.raises(Cancelled):
        write_plates(job(photo, screen=DOTS, ppi=600.0), tmp_path / "a.tif", shares.append, lambda: len(shares) > 1)
    assert list(tmp_path.iterdir()) == []


def test_what_a_plate_is_goes_along_in_its_file(photo, tmp_path):
    for what, name in ((job(photo), "a"), (job(photo, screen=DOTS), "b")):
        write_plates(what, tmp_path / f"{name}.tif")
        with tifffile.TiffFile(tmp_path / f"{name}.tif") as tiff:
            said = tiff.pages[1].tags[270].value
        assert said.startswith("ink 2 #8a7a68; plate 2 of 2; ")
        assert said.endswith(" % at most; dots at 75 degrees")


@pytest.mark.parametrize("screen", [None, DOTS])
def test_plates_as_png_are_a_file_each(photo, tmp_path, screen):
    what = job(photo, screen=screen)
    written = write_plates(what, tmp_path / "a.png")
    assert [path.name for path in written] == ["a-ink-1.png", "a-ink-2.png"]
    write_plates(what, tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff, Image.open(written[1]) as image:
        page = tiff.pages[1].asarray()
        assert image.mode == ("I;16" if screen is None else "1")
        assert "icc_profile" not in image.info
        other = np.asarray(image)
    if screen is None:
        assert np.abs(other.astype(int) - page.astype(int)).max() <= 1  # a half is rounded one way in each
    else:
        assert np.array_equal(other, page == 0)


def test_the_dots_that_are_looked_at_are_those_of_the_plates(photo):
    """Paper and inks alone or on one another; their mean is the print's light, more or less."""
    sheet = Sheet.of(width=120, height=220, across=60, screen="round", ruling=60, device=600)
    script = job(photo).script
    seen = dots_of(lambda below: Renderer(photo.source, below), script, sheet, (240, 200))
    assert seen.shape == (3, 200, 240)
    assert len(np.unique(np.rint(seen.reshape(3, -1).T * 255), axis=0)) <= 4
    width, height = Renderer(photo.source, script).size(1.0)
    print_ = Renderer(photo.source, script).region(Rect((width - 61) // 2, (height - 51) // 2, 61, 51))
    assert to_light(seen).mean() == pytest.approx(to_light(print_).mean(), abs=0.02)
    with pytest.raises(ValueError, match="no dots"):
        dots_of(lambda below: Renderer(photo.source, below), script, Sheet(), (9, 9))


@pytest.mark.parametrize("start", STARTS)
def test_plates_for_a_press_are_the_print_on_it(photo, tmp_path, start):
    """Gain and n of a press on cotton: of the very files, put together as that press prints, in L* (CIE 15)."""
    press = Press((18.0,) * 4, 1.9, 270.0)
    write_plates(what := job(photo, start, press=press), tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        pages = np.stack([page.asarray()[:1] for page in tiff.pages]) / 65535
    print_ = Renderer(photo.source, what.script).region(Rect(0, 0, 360, 1))
    step = what.script.passes[-1]
    off = np.abs(lightness(together(pages, step, press), SRGB) - lightness(print_, SRGB))
    assert off.max() < (1.2 if start == "two inks: greens" else 0.4)
    assert (1 - pages).sum(axis=0).max() <= 2.7 + 1e-4
    write_plates(job(photo, start), tmp_path / "b.tif")
    with tifffile.TiffFile(tmp_path / "b.tif") as tiff:
        pages = np.stack([page.asarray()[:1] for page in tiff.pages]) / 65535
    off = lightness(together(pages, step, press), SRGB) - lightness(print_, SRGB)
    assert off.min() < (-6 if start == "two inks: greens" else -20)  # what nothing was said of


def test_how_far_off_plates_would_be_is_told(photo):
    script = job(photo).script
    cotton = Making(press=Press((18.0,) * 4, 1.9, 270.0))
    assert printing(script, cotton) == ("reckoned for this press; for ink that does not spread they would print up to "
                                        "31.5 L* off, 16.7 on average")  # fmt: skip
    assert left_out(script, cotton) == []
    greens = job(photo, "two inks: greens").script
    assert left_out(greens, cotton) == ["on this press, with so much ink at most, the plates print up to 1.1 L* off"]
    assert printing(script, Making()).startswith(
        "for ink that does not spread; as on cotton they print up to 32 L* off"
    )
    on_glossy = Making(Sheet.of(stock="glossy"))
    assert printing(script, on_glossy).startswith("for ink that does not spread; as on glossy paper they print up to ")
