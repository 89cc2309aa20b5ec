"""Proofs against little-CMS's own proofing transform, and what paper does by itself."""

import ctypes
import ctypes.util
from pathlib import Path

import numpy as np
import PIL
import pytest
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB
from kyanoscript.core.paper.papers import PAPERS
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture.table import SIDE, grid, through
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.colour import profiles, proofs
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.files.standins import benchprinter

GHOSTSCRIPT = Path("/usr/share/color/icc/ghostscript")
COLORD = Path("/usr/share/color/icc/colord")
PROFILES = {
    "bench RGB": benchprinter.profile(),
    "CMYK": GHOSTSCRIPT / "default_cmyk.icc",
    "gray": GHOSTSCRIPT / "default_gray.icc",
    "wide RGB": COLORD / "AdobeRGB1998.icc",
}


def profile_of(name):
    path = PROFILES[name]
    if not path.exists():
        pytest.skip(f"{path.name} is not installed")
    return path.read_bytes()


def soft_proof(pixels, icc, intent, back, black_point=True):
    """By little-CMS's own proofing transform (Pillow's, or the system's), in 16 bits, without a table of its own.

    From sRGB to the printer by ``intent``, from there to an sRGB monitor by ``back``. Numbers and flags: lcms2.h, 2.19.
    """
    brought = sorted((Path(PIL.__file__).parents[1] / "pillow.libs").glob("liblcms2*"))
    library = ctypes.CDLL(str(brought[0]) if brought else ctypes.util.find_library("lcms2"))
    library.cmsOpenProfileFromMem.restype = library.cmsCreateProofingTransform.restype = ctypes.c_void_p
    library.cmsOpenProfileFromMem.argtypes = [ctypes.c_char_p, ctypes.c_uint32]
    pointer, number = ctypes.c_void_p, ctypes.c_uint32
    library.cmsCreateProofingTransform.argtypes = [pointer, number, pointer, number, pointer, number, number, number]
    library.cmsDoTransform.argtypes = [pointer, pointer, pointer, number]
    rgb_16, softproofing, black_points, not_optimized = (4 << 16) | (3 << 3) | 2, 0x4000, 0x2000, 0x0100
    srgb = profiles.srgb()
    own, printer = (library.cmsOpenProfileFromMem(data, len(data)) for data in (srgb, icc))
    flags = softproofing | not_optimized | (black_points if black_point else 0)
    way = library.cmsCreateProofingTransform(own, rgb_16, own, rgb_16, printer, intent, back, flags)
    assert way
    given = np.ascontiguousarray(np.rint(pixels.reshape(-1, 3) * 65535), np.uint16)
    found = np.empty_like(given)
    library.cmsDoTransform(way, given.ctypes.data, found.ctypes.data, len(given))
    return found / 65535


@pytest.mark.parametrize("name", PROFILES)
@pytest.mark.parametrize("intent", ["perceptual", "relative"])
@pytest.mark.parametrize("white", [True, False])
def test_a_proof_is_little_cmss_own(name, intent, white):
    """On every point of the table within half an 8-bit step; measured: 0.17 at most."""
    icc = profile_of(name)
    found = proofs.table(Proof(icc, (0, 0, 0), 2.0, intent, True, white), SRGB).reshape(-1, 3)
    want = soft_proof(grid(), icc, {"perceptual": 0, "relative": 1}[intent], 3 if white else 1)
    assert np.abs(found - want).max() * 255 <= 0.5
    assert np.ptp(found, axis=0).min() > 0.3  # it is no table of one colour


@pytest.mark.parametrize("name", PROFILES)
def test_between_the_tables_points_a_proof_is_near(name):
    """1.0 of CIEDE2000 at most for colours that lie anywhere, for grays and for darks."""
    proof = Proof(profile_of(name), (0, 0, 0), 2.0)
    rng = np.random.default_rng(0)
    pixels = rng.uniform(0, 1, (8000, 1, 3)).astype(np.float32)
    pixels[:1000] = pixels[:1000, :, :1]
    pixels[1000:3000] *= 0.2
    want = np.clip(proofs._seen(proof, SRGB, pixels, profiles.srgb()), 0, 1)
    planes = np.ascontiguousarray(np.moveaxis(pixels, 2, 0))
    found = np.empty_like(planes)
    through(planes, proofs.table(proof, SRGB), found, 3, planes[0].size)
    away = deltaE_ciede2000(rgb2lab(np.moveaxis(np.clip(found, 0, 1), 0, 2)), rgb2lab(want))
    assert away.max() < 1.0


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
        proofs.proof_of(Sheet.of(profile=str(path)))
    assert "damaged.icc" in str(error.value)


def test_a_profile_that_is_not_there_is_named(tmp_path):
    with pytest.raises(FileError, match=r"gone\.icc"):
        proofs.proof_of(Sheet.of(profile=str(tmp_path / "gone.icc")))
