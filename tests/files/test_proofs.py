"""Proofs against little-CMS's own proofing transform, and what paper does by itself."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB
from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.paper.papers import PAPERS
from kyanoscript.core.picture.table import SIDE, through
from kyanoscript.files import benchprinter, profiles, proofs
from kyanoscript.files.errors import FileError
from kyanoscript.files.proofs import Proof

GHOSTSCRIPT = Path("/usr/share/color/icc/ghostscript")
COLORD = Path("/usr/share/color/icc/colord")
PROFILES = {
    "bench RGB": benchprinter.profile(),
    "CMYK": GHOSTSCRIPT / "default_cmyk.icc",
    "gray": GHOSTSCRIPT / "default_gray.icc",
    "wide RGB": COLORD / "AdobeRGB1998.icc",
}
LEVELS = np.array([0, 1, 40, 85, 128, 170, 215, 254, 255], np.uint8)
GRID = np.stack(np.meshgrid(LEVELS, LEVELS, LEVELS, indexing="ij"), -1).reshape(-1, 1, 3)


def profile_of(name):
    path = PROFILES[name]
    if not path.exists():
        pytest.skip(f"{path.name} is not installed")
    return path.read_bytes()


def soft_proof(pixels, icc, intent, back, black_point):
    """By little-CMS: from sRGB to the printer by ``intent``, from there to an sRGB monitor by ``back``; 8 bits."""
    import io

    flags = ImageCms.Flags.SOFTPROOFING | ImageCms.Flags.HIGHRESPRECALC
    if black_point:
        flags |= ImageCms.Flags.BLACKPOINTCOMPENSATION
    srgb = ImageCms.ImageCmsProfile(io.BytesIO(profiles.srgb()))
    transform = ImageCms.buildProofTransform(
        srgb, srgb, ImageCms.ImageCmsProfile(io.BytesIO(icc)), "RGB", "RGB",
        renderingIntent=ImageCms.Intent(intent), proofRenderingIntent=ImageCms.Intent(back), flags=flags,
    )  # fmt: skip
    return np.asarray(ImageCms.applyTransform(Image.fromarray(pixels), transform), float)


@pytest.mark.parametrize("name", PROFILES)
@pytest.mark.parametrize("intent", ["perceptual", "relative"])
@pytest.mark.parametrize("white", [True, False])
def test_a_proof_is_little_cmss_own(name, intent, white):
    """Within half an 8-bit step at the median; the other rounds, and goes through a table of its own, besides."""
    icc = profile_of(name)
    proof = Proof(icc, (0, 0, 0), 2.0, intent, True, white)
    found = np.clip(proofs._seen(proof, SRGB, GRID / np.float32(255), profiles.srgb()), 0, 1) * 255
    numbers = {"perceptual": 0, "relative": 1}
    want = soft_proof(GRID, icc, numbers[intent], 3 if white else 1, black_point=True)
    away = np.abs(found - want)
    assert np.percentile(away, 95) <= 1.0
    assert np.median(away) <= 0.5
    assert np.percentile(deltaE_ciede2000(rgb2lab(found / 255), rgb2lab(want / 255)), 99) < 1.0


@pytest.mark.parametrize("name", ["bench RGB", "CMYK"])
def test_between_the_tables_points_a_proof_is_near(name):
    """1.0 of CIEDE2000 at most for 99 of 100 colours that lie anywhere, and for grays."""
    proof = Proof(profile_of(name), (0, 0, 0), 2.0)
    rng = np.random.default_rng(0)
    pixels = rng.uniform(0, 1, (4000, 1, 3)).astype(np.float32)
    pixels[:500] = pixels[:500, :, :1]
    want = np.clip(proofs._seen(proof, SRGB, pixels, profiles.srgb()), 0, 1)
    planes = np.ascontiguousarray(np.moveaxis(pixels, 2, 0))
    found = np.empty_like(planes)
    through(planes, proofs.table(proof, SRGB), found, 3, planes[0].size)
    away = deltaE_ciede2000(rgb2lab(np.moveaxis(np.clip(found, 0, 1), 0, 2)), rgb2lab(want))
    assert np.percentile(away, 99) < 1.0
    assert away[:500].max() < 1.0


def test_absolute_is_as_white_as_the_paper_and_relative_as_the_screen():
    icc = profile_of("bench RGB")
    absolute, relative = (proofs.table(Proof(icc, (0, 0, 0), 2.0, paper_white=on), SRGB) for on in (True, False))
    assert relative[-1, -1, -1] == pytest.approx([1, 1, 1], abs=0.005)
    assert absolute[-1, -1, -1].max() < 0.985
    assert absolute[0, 0, 0].max() > 0.02


@pytest.mark.parametrize("space", [SRGB, DISPLAY_P3, BT2020])
@pytest.mark.parametrize("paper", PAPERS)
def test_without_a_profile_the_papers_own_white_and_black_count(space, paper):
    """White comes out at the paper's L*a*b*, black at its largest density; tones between rise."""
    kind = PAPERS[paper]
    proof = Proof(b"", kind.white, kind.density)
    tone, on = proofs.tones(proof, space)
    assert on[-1] == pytest.approx(kind.white[0], abs=0.15)
    assert on[0] == pytest.approx(kind.black, abs=0.15)
    assert (np.diff(on) > 0).all()
    assert tone[0] == pytest.approx(0, abs=0.01)
    assert tone[-1] == pytest.approx(100, abs=0.1)
    white = proofs._lab(proofs._seen(proof, space, np.ones((1, 1, 3), np.float32), profiles.of_space(BT2020)))[0]
    assert white == pytest.approx(kind.white, abs=0.25)


def test_without_black_point_compensation_shadows_are_cut_off():
    kind = PAPERS["washi"]
    _, with_it = proofs.tones(Proof(b"", kind.white, kind.density), SRGB)
    _, without = proofs.tones(Proof(b"", kind.white, kind.density, black_point=False), SRGB)
    assert np.ptp(without[:8]) < 0.5  # zones that run together
    assert np.ptp(with_it[:8]) > 2


def test_out_of_gamut_is_what_does_not_come_back():
    """A printer's own colours come back; the purest of BT.2020 do not; grays of the middle do."""
    proof = Proof(profile_of("bench RGB"), (0, 0, 0), 2.0)
    colours = np.array([[[0.5, 0.5, 0.5], [0.0, 1.0, 0.0], [0.75, 0.7, 0.62], [1.0, 0.0, 1.0]]], np.float32)
    planes = np.moveaxis(colours, 2, 0)
    assert proofs.outside(proof, BT2020, planes).tolist() == [[False, True, False, True]]
    assert not proofs.outside(Proof(b"", (96, 0, 2), 2.0), BT2020, planes).any()
    assert 0.2 < proofs.beyond(proof, SRGB).mean() < 0.9
    wide = proofs.beyond(Proof(profile_of("wide RGB"), (0, 0, 0), 2.0), SRGB)
    assert wide.mean() < 0.01  # its gamut holds all of sRGB's


def test_a_table_is_made_once(monkeypatch):
    proof = Proof(b"", (95, 0, 1), 2.1)
    first = proofs.table(proof, SRGB)
    monkeypatch.setattr(proofs, "_seen", None)
    assert proofs.table(Proof(b"", (95, 0, 1), 2.1), SRGB) is first
    assert first.shape == (SIDE, SIDE, SIDE, 3)


@pytest.mark.parametrize(
    ("damage", "words"),
    [("text", "no colour profile"), ("camera", "camera"), ("lab", "LAB"), ("short", "cannot be printed with")],
)
def test_profiles_that_cannot_be_printed_with_are_named(tmp_path, damage, words):
    icc = bytearray(benchprinter.profile().read_bytes())
    if damage == "text":
        icc = bytearray(b"not a profile")
    elif damage == "camera":
        icc[12:16] = b"scnr"
    elif damage == "lab":
        icc[16:20] = b"Lab "
    else:
        icc = icc[:4000]
    path = tmp_path / "damaged.icc"
    path.write_bytes(icc)
    with pytest.raises(FileError, match=r"(?i)" + words) as error:
        proofs.proof_of(Sheet(profile=str(path)))
    assert "damaged.icc" in str(error.value)


def test_a_profile_that_is_not_there_is_named(tmp_path):
    with pytest.raises(FileError, match=r"gone\.icc"):
        proofs.proof_of(Sheet(profile=str(tmp_path / "gone.icc")))
