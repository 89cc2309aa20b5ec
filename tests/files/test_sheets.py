"""Sheets out: exact geometry read back by other libraries, the bench printer, and what cannot be."""

import json
import shutil

import cv2
import numpy as np
import pdfplumber
import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import Banded, Bands, part
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.kept import sheetfile
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, shape_of, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.standins import benchprinter

P = load_all()
A3 = Sheet.of(width=420, height=297, across=300, left=60, top=38, resolution=100, sharpen=0)


@pytest.fixture(scope="module")
def photo(tmp_path_factory):
    """A mid gray photograph of 3 : 2 with a soft ramp, so that the print's rim is seen against white paper."""
    path = tmp_path_factory.mktemp("sheets") / "ramp.png"
    ramp = np.linspace(90, 150, 600, dtype=np.uint8)[None].repeat(400, axis=0)
    cv2.imwrite(str(path), np.repeat(ramp[..., None], 3, 2))
    return open_photo(path)


def job(photo, target, sheet=A3, script=None, bits=8, **more):
    what = OnSheet(sheet, **more)
    return Out(photo, script or Script(), Pictures(photo.path, None), target, what, Settings(bits=bits))


def write_sheet(out, told=lambda share: None, stopping=lambda: False):
    """Its size in pixels."""
    return write(out, Progress(told, stopping))[:2]


def leaf_of(out):
    return out.pages()[0].of


def box_of(gray, paper):
    """Left, top, right and bottom of what is darker than the paper, in pixels."""
    ys, xs = np.nonzero(gray < paper)
    return xs.min(), ys.min(), xs.max() + 1, ys.max() + 1


def in_mm(box, ppi):
    return [value * 25.4 / ppi for value in box]


# Geometry


def test_an_a3_page_of_the_bench_printer_has_the_print_where_it_was_put(photo, tmp_path):
    """60.0 mm from the left, 38.0 from the top, 300.0 × 200.0 mm, each within 0.1 mm: measured on the printed paper."""
    sheet = A3.with_values(resolution=300.0)
    place = benchprinter.print_sheet(job(photo, tmp_path / "x.png", sheet), into=tmp_path / "spool")
    with Image.open(place / "paper.png") as image:
        assert image.info["dpi"] == pytest.approx((300, 300), abs=0.1)
        paper = np.asarray(image.convert("L"))
    assert in_mm(paper.shape[::-1], 300) == pytest.approx([420, 297], abs=0.1)
    left, top, right, bottom = in_mm(box_of(paper, 215), 300)
    assert (left, top) == pytest.approx((60, 38), abs=0.1)
    assert (right - left, bottom - top) == pytest.approx((300, 200), abs=0.1)
    ticket = json.loads((place / "ticket.json").read_text())
    assert ticket["paper"] == [420, 297]
    assert ticket["sheet"]["placing"]["left"] == 60


def test_a_pdf_is_of_the_exact_size_with_profile_and_boxes(photo, tmp_path):
    sheet = A3.with_values(cuts=True, resolution=150.0)
    write_sheet(job(photo, tmp_path / "a.pdf", sheet))
    with pdfplumber.open(tmp_path / "a.pdf") as pdf:
        page = pdf.pages[0]
        assert (float(page.width) / 72 * 25.4, float(page.height) / 72 * 25.4) == pytest.approx((420, 297), abs=0.1)
        image = page.images[0]
        assert (image["x0"], image["top"]) == pytest.approx((0, 0), abs=0.01)
        assert image["width"] == pytest.approx(float(page.width), abs=0.01)
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        assert len(pdf.pages) == 1
        page = pdf.pages[0]
        trim = [float(v) / 72 * 25.4 for v in page.TrimBox]
        assert trim == pytest.approx([60, 297 - 238, 360, 297 - 38], abs=0.17)  # a pixel
        bleed = [float(v) / 72 * 25.4 for v in page.BleedBox]
        assert bleed == pytest.approx([trim[0] - 3, trim[1] - 3, trim[2] + 3, trim[3] + 3], abs=0.01)
        picture = next(iter(page.Resources.XObject.as_dict().values()))
        assert picture.ColorSpace[0] == "/ICCBased"
        assert bytes(picture.ColorSpace[1].read_bytes())[36:40] == b"acsp"
        assert "/OutputIntents" not in pdf.Root  # it is no printer's
        shown = pikepdf.PdfImage(picture).as_pil_image()
        assert shown.size == (picture.Width, picture.Height)


@pytest.mark.parametrize(("profile", "bits", "standard"), [
    ("", 8, "A-2b"), ("", 16, "A-2b"), ("bench", 8, "X-4"), ("bench", 16, "X-4"),
])  # fmt: skip
def test_a_pdf_is_what_its_standard_says(photo, tmp_path, monkeypatch, profile, bits, standard):
    """ISO 15930-7 and ISO 19005-2, from memory; pikepdf reads what it claims."""
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1779999999")  # 28 May 2026, 20:26:39
    file = tmp_path / "a.pdf"
    write_sheet(job(photo, file, A3.with_values(profile=profile, resolution=72.0), bits=bits))
    assert file.read_bytes().startswith(b"%PDF-1.7\n%")
    with pikepdf.open(file) as pdf:
        picture = pdf.pages[0].Resources.XObject.Print
        icc = picture.ColorSpace[1].read_bytes()
        assert int(picture.BitsPerComponent) == bits
        info = {str(name): str(value) for name, value in pdf.docinfo.items()}
        assert info["/Title"] == "ramp"
        assert info["/Producer"].startswith("Kyanoscript ")
        assert info["/CreationDate"] == info["/ModDate"] == "D:20260528202639Z"
        assert info["/Trapped"] == "/False"
        assert len(pdf.trailer.ID) == 2
        assert pdf.Root.Metadata.Type == "/Metadata"
        assert "/Filter" not in pdf.Root.Metadata  # so that it is found without unpacking
        with pdf.open_metadata() as said:
            assert said["dc:title"] == info["/Title"]
            assert said["pdf:Producer"] == info["/Producer"]
            assert said["xmp:CreateDate"] == said["xmp:MetadataDate"] == "2026-05-28T20:26:39Z"
            claims = said.pdfa_status, said.pdfx_status
            if standard == "X-4":
                assert said["xmpMM:DocumentID"].startswith("uuid:")
        if standard == "X-4":
            assert claims == ("", "PDF/X-4")
            (intent,) = pdf.Root.OutputIntents
            assert intent.S == "/GTS_PDFX"
            assert intent.DestOutputProfile.read_bytes() == icc
            assert icc[12:16] == b"prtr"
        else:
            assert claims == ("2B", "")
            assert icc[12:16] != b"prtr"
            assert "/OutputIntents" not in pdf.Root


def test_the_same_sheet_is_the_same_file(photo, tmp_path, monkeypatch):
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1779999999")
    for name in ("a.pdf", "b.pdf", "a.tif", "b.tif"):
        write_sheet(job(photo, tmp_path / name))
    assert (tmp_path / "a.pdf").read_bytes() == (tmp_path / "b.pdf").read_bytes()
    assert (tmp_path / "a.tif").read_bytes() == (tmp_path / "b.tif").read_bytes()


@pytest.mark.parametrize(("ending", "bits"), [("tif", 8), ("tif", 16), ("png", 8), ("png", 16), ("jpg", 8)])
def test_files_have_size_resolution_and_profile(photo, tmp_path, ending, bits):
    path = tmp_path / f"a.{ending}"
    assert write_sheet(job(photo, path, bits=bits)) == (1654, 1169)
    with Image.open(path) as image:
        assert image.size == (1654, 1169)
        assert image.info["dpi"] == pytest.approx((100, 100), abs=0.1)
        assert image.info["icc_profile"][36:40] == b"acsp"
    whole = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    gray = whole if whole.ndim == 2 else whole[..., 1]
    assert gray.dtype == (np.uint16 if bits == 16 else np.uint8)
    left, top, right, bottom = box_of(gray, np.iinfo(gray.dtype).max * 0.8)
    assert (left, top) == (pixels(60, 100), pixels(38, 100))
    assert (right - left, bottom - top) == (pixels(300, 100), pixels(200, 100))


def test_trimmed_is_the_prints_alone(photo, tmp_path):
    sheet = A3.with_values(columns=2, across=100, gutter=10)
    write_sheet(job(photo, tmp_path / "a.tif", sheet, trimmed=True))
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert tiff.pages[0].shape[:2] == pytest.approx((pixels(200 / 3, 100), pixels(210, 100)), abs=1)


def test_a_strip_lies_in_the_place_of_the_print(photo, tmp_path):
    """Each band is its own print's part, to a step of 8 bits where no letter lies; the paper round it stays white."""
    scripts = tuple(Script((P["levels"](gamma=gamma),)) for gamma in (0.7, 1.0, 1.4))
    bands = Bands(scripts, ("0.7", "1", "1.4"), (3, 1))
    assert write_sheet(job(photo, tmp_path / "a.tif", bands=bands)) == (1654, 1169)
    found = tifffile.imread(tmp_path / "a.tif")
    x, y, width, height = 236, 150, 1181, 787
    for k, script in enumerate(scripts):
        assert write_sheet(job(photo, tmp_path / "b.tif", script=script)) == (1654, 1169)
        alone = tifffile.imread(tmp_path / "b.tif")
        left, right = x + k * width // 3 + 2, x + (k + 1) * width // 3
        part = np.s_[y : y + height - 60, left:right]
        assert np.abs(found[part].astype(int) - alone[part]).max() <= 1
    outside = np.ones(found.shape[:2], bool)
    outside[y : y + height, x : x + width] = False
    assert (found[outside] == 255).all()


def test_marks_are_at_exact_pixels_whatever_the_print_is(photo, tmp_path):
    """The very same pixels on two leaves of one sheet: what registers plates."""
    sheet = A3.with_values(registers=True, cuts=True, wedge=True, resolution=200.0)
    leaves = [leaf_of(job(photo, tmp_path / "x", sheet, script)) for script in
              (Script(), Script((P["gray-weights"](), P["levels"](middle=30))))]  # fmt: skip
    whole = [leaf.region(Rect(0, 0, *leaf.size(1.0)))[0] for leaf in leaves]
    outside = np.ones(whole[0].shape, bool)
    box = leaves[0].prints
    outside[box.y : box.bottom, box.x : box.right] = False
    assert np.array_equal(whole[0][outside], whole[1][outside])
    middle = pixels(38 + 100, 200)
    column = whole[0][middle - 60 : middle + 60, pixels(60 - 9, 200)]
    assert np.flatnonzero(column < 0.5)[[0, -1]].mean() == pytest.approx(60, abs=1.01)  # the arm is 10 mm long


def test_any_part_of_a_leaf_is_the_wholes_part(photo, tmp_path):
    sheet = A3.with_values(registers=True, caption="Landing, 3/25", wedge=True, sharpen=100.0, mirrored=True)
    leaf = leaf_of(job(photo, tmp_path / "x", sheet))
    whole = leaf.region(Rect(0, 0, *leaf.size(1.0)))
    for rect in (Rect(200, 100, 400, 300), Rect(0, 900, 1654, 269), Rect(1000, 0, 654, 1169)):
        part = leaf.region(rect)
        assert np.abs(part - whole[:, rect.y : rect.bottom, rect.x : rect.right]).max() < 3e-4


def test_mirrored_is_the_whole_sheet_turned_over(photo, tmp_path):
    plain = A3.with_values(caption="Landing", left=20)
    leaves = [leaf_of(job(photo, tmp_path / "x", plain.with_values(mirrored=on))) for on in (False, True)]
    a, b = (leaf.region(Rect(0, 0, *leaf.size(1.0))) for leaf in leaves)
    assert np.array_equal(a, b[:, :, ::-1])
    assert leaves[1].prints.right == 1654 - leaves[0].prints.x


def test_grain_is_that_of_the_paper_and_not_enlarged(photo):
    """Worked out at the print's own pixels grain is as fine at any size; enlarged with the photograph it is soft."""
    script = Script((P["grain"](),))
    fine = rendered(photo.source, script, None, 2400).region(Rect(800, 600, 400, 400))[0]
    small = Renderer(photo.source, script).region(Rect(200, 150, 100, 100))[0]
    enlarged = cv2.resize(small, (400, 400), interpolation=cv2.INTER_LANCZOS4)

    def fineness(plane):
        away = plane - cv2.GaussianBlur(plane, (0, 0), 20)
        return np.abs(np.diff(away, axis=1)).mean() / away.std()

    assert fineness(fine) > 1.3 * fineness(enlarged)


def test_a_print_is_just_as_wide_as_it_is_to_be(photo):
    for width in (37, 599, 601, 1234, 2999):
        assert rendered(photo.source, Script(), None, width).size(1.0)[0] == width


def test_how_many_pixels_a_print_has(photo):
    assert shape_of(photo, Script()) == (600, 1.5)


# Colours


def test_a_cmyk_profile_makes_a_separated_tiff_and_is_refused_for_others(photo, tmp_path, cmyk):
    sheet = A3.with_values(profile=str(cmyk), resolution=72.0)
    write_sheet(job(photo, tmp_path / "a.tif", sheet))
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        page = tiff.pages[0]
        assert page.photometric == tifffile.PHOTOMETRIC.SEPARATED
        assert page.shape[2] == 4
        inks = page.asarray()
    assert inks[5, 5].max() <= 2  # paper has no ink
    middle = inks[400, 600].astype(int)
    assert middle.sum() > 150
    write_sheet(job(photo, tmp_path / "a.pdf", sheet))
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        assert next(iter(pdf.pages[0].Resources.XObject.as_dict().values())).ColorSpace[1].N == 4
    with pytest.raises(FileError, match="CMYK"):
        write_sheet(job(photo, tmp_path / "a.png", sheet))
    with pytest.raises(FileError, match="RGB"):
        benchprinter.print_sheet(job(photo, tmp_path / "a.png", sheet), into=tmp_path / "spool")


def test_what_is_printed_is_what_was_proofed(photo, tmp_path):
    """The middle of the printed paper against the proof of the same sheet, absolute: within 2.5 8-bit steps."""
    from kyanoscript.core.picture.table import SIDE
    from kyanoscript.files.colour import proofs

    sheet = A3.with_values(profile=str(benchprinter.profile()), resolution=72.0)
    place = benchprinter.print_sheet(job(photo, tmp_path / "a.png", sheet), into=tmp_path / "spool")
    paper = cv2.imread(str(place / "paper.png"))[..., ::-1].astype(float)
    table = proofs.table(proofs.proof_of(sheet), photo.source.space)
    white = paper[5:60, 5:60].mean(axis=(0, 1))
    assert white == pytest.approx(table[-1, -1, -1] * 255, abs=2.5)
    level = 120
    x = pixels(60 + 300 * (level - 90) / 60, 72)
    seen = paper[pixels(80, 72) : pixels(180, 72), x - 1 : x + 2].mean(axis=(0, 1))
    at = level / 255 * (SIDE - 1)
    low, share = int(at), at - int(at)
    want = (table[low, low, low] * (1 - share) + table[low + 1, low + 1, low + 1] * share) * 255
    assert seen == pytest.approx(want, abs=2.5)


# What cannot be


@pytest.mark.parametrize("name", ["a.webp", "a.txt", "a.avif"])
def test_sheets_are_not_written_as_anything(photo, tmp_path, name):
    with pytest.raises(FileError, match=r"written"):
        write_sheet(job(photo, tmp_path / name))


def test_nothing_is_left_of_a_sheet_that_is_stopped_or_finds_no_room(photo, tmp_path, monkeypatch):
    shares = []
    with pytest.raises(Cancelled):
        write_sheet(job(photo, tmp_path / "a.pdf"), shares.append, lambda: len(shares) > 2)
    assert list(tmp_path.iterdir()) == []

    def full(*args, **kwargs):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(pikepdf.Pdf, "save", full)
    with pytest.raises(FileError, match=r"a\.pdf"):
        write_sheet(job(photo, tmp_path / "a.pdf"))
    assert list(tmp_path.iterdir()) == []


def test_a_sheet_of_too_many_pixels_is_refused_in_words(photo, tmp_path):
    huge = Sheet.of(width=3000, height=3000, across=100, resolution=2880)
    with pytest.raises(ValueError, match="too large"):
        write_sheet(job(photo, tmp_path / "a.tif", huge))


def test_a_print_larger_than_its_paper_is_cut_at_the_rim(photo, tmp_path):
    sheet = Sheet.of(width=100, height=100, across=300, left=-50, top=-20, resolution=100)
    assert write_sheet(job(photo, tmp_path / "a.png", sheet)) == (394, 394)
    assert cv2.imread(str(tmp_path / "a.png"), 0).max() < 170  # no paper is left


def test_jobs_of_the_bench_printer_are_numbered_whatever_else_lies_in_its_spool(photo, tmp_path):
    spool = tmp_path / "spool"
    for name in ("job-0007", "job-draft", "paper"):
        (spool / name).mkdir(parents=True)
    sheet = Sheet.of(width=60, height=40, across=30, resolution=72)
    place = benchprinter.print_sheet(job(photo, tmp_path / "x.png", sheet), into=spool)
    assert place.name == "job-0008"
    assert {path.name for path in place.iterdir()} == {"ticket.json", "page.png", "paper.png"}
    first = benchprinter.print_sheet(job(photo, tmp_path / "x.png", sheet), into=tmp_path / "new")
    assert first.name == "job-0001"


def test_the_spool_that_cannot_be_written_to_is_named(photo, tmp_path):
    (tmp_path / "spool").write_text("a file in its place")
    with pytest.raises(FileError, match="spool"):
        benchprinter.print_sheet(job(photo, tmp_path / "x.png"), into=tmp_path / "spool")


def test_jobs_are_numbered_on(photo, tmp_path):
    small = Sheet.of(width=60, height=40, across=30, resolution=72)
    for number in (1, 2):
        place = benchprinter.print_sheet(job(photo, tmp_path / "x.png", small), into=tmp_path)
        assert place.name == f"job-{number:04d}"
    shutil.rmtree(tmp_path / "job-0001")
    assert benchprinter.print_sheet(job(photo, tmp_path / "x.png", small), into=tmp_path).name == "job-0003"


# Sheets kept for others


def test_a_sheet_is_kept_for_other_photographs(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path))
    path = sheetfile.keep("Exhibition, large", A3)
    assert sheetfile.read_sheet(path) == ("Exhibition, large", A3)
    (sheetfile.folder() / f"torn{sheetfile.SUFFIX}").write_text("{")
    assert sheetfile.kept() == [("Exhibition, large", A3)]


@pytest.mark.parametrize(
    ("text", "words"), [("{", "no sheet"), ("[]", "no sheet"), ('{"sheet": {"width": 0}}', "width is 0"),
                        ('{"sheet": {"widht": 100}}', "widht")],
)  # fmt: skip
def test_a_damaged_sheet_is_named(tmp_path, text, words):
    path = tmp_path / "a.sheet.json"
    path.write_text(text)
    with pytest.raises(FileError, match=words):
        sheetfile.read_sheet(path)


def test_leaves_say_their_own_size():
    sheet = Sheet.of(width=100, height=50, across=60, resolution=254)
    source = np.zeros((20, 30), np.uint8)
    from kyanoscript.core.picture import ArraySource

    leaf = Leaf(sheet, rendered(ArraySource(source), Script(), None, pixels(60, 254)))
    assert leaf.size(1.0) == (1000, 500)
    assert leaf.region(Rect(0, 0, 100, 50), 0.1).shape == (1, 50, 100)


def test_bands_of_the_same_part_show_the_middle(photo):
    """Of a print of one value each band is the middle of it, bit for bit; of ordinary bands its own part."""
    script = Script((P["levels"](gamma=1.2),))
    one = Renderer(photo.source, script)
    width, height = one.size(1.0)
    for same in (False, True):
        bands = Bands((script,) * 3, ("", "", ""), (3, 1), same)
        whole = Banded([one] * 3, bands).region(Rect(0, 0, width, height))
        for k in range(3):
            box = part((3, 1), k, (width, height))
            x = (width - box.width) // 2 if same else box.x
            wanted = one.region(Rect(x + 2, 0, box.width - 2, 300))
            assert np.array_equal(whole[:, :300, box.x + 2 : box.right], wanted[:, :300])


def test_a_sheet_that_is_kept_says_all_its_values(tmp_path):
    """So that a later change of a default changes no print; one that was kept without is from before presses."""
    sheetfile.write_sheet_file(tmp_path / "a.sheet.json", "A", Sheet())
    assert sheetfile.read_sheet(tmp_path / "a.sheet.json") == ("A", Sheet())
    (tmp_path / "old.sheet.json").write_text('{"name": "Old", "sheet": {}}')
    assert sheetfile.read_sheet(tmp_path / "old.sheet.json")[1] == Sheet.of(most_ink=400)
