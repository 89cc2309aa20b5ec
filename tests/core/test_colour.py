"""Colour formulas against published values and reference libraries."""

import warnings

import numpy as np
import pytest
import skimage.color

from kyanoscript.core import colour

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as science


def test_srgb_curve_has_the_values_of_iec_61966_2_1():
    """IEC 61966-2-1:1999, 5.2: the formula evaluated by hand at 8-bit codes, and the break point."""
    table = {0: 0.0, 1: 1 / 255 / 12.92, 10: 10 / 255 / 12.92, 11: 0.003346535763899161, 255: 1.0}
    table |= {128: 0.21586050011389926, 188: 0.5028864580325687}
    for code, light in table.items():
        assert colour.to_light(code / 255) == pytest.approx(light, abs=1e-12)


def test_srgb_curve_agrees_with_colour_science_both_ways():
    values = np.linspace(0, 1, 4097)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        assert np.allclose(colour.to_light(values), science.models.eotf_sRGB(values), atol=1e-9)
        assert np.allclose(colour.to_encoded(values), science.models.eotf_inverse_sRGB(values), atol=1e-9)


def test_light_and_back_is_the_same_value():
    values = np.linspace(0, 1, 10001)
    assert np.allclose(colour.to_encoded(colour.to_light(values)), values, atol=2e-8)


def test_lightness_agrees_with_scikit_image_lab():
    rng = np.random.default_rng(3)
    rgb = rng.random((3, 40, 50))
    wanted = skimage.color.rgb2lab(np.moveaxis(rgb, 0, -1))[..., 0]
    assert np.allclose(colour.lightness(rgb, colour.SRGB), wanted, atol=0.02)  # its matrix is rounded to six figures


def test_middle_gray_of_18_percent_is_lightness_49_and_a_half():
    """CIE 15: L* of Y = 0.18 is 116 · 0.18^(1/3) − 16 = 49.496."""
    assert colour.lightness(colour.to_encoded(np.array([[0.18]])), colour.SRGB)[0] == pytest.approx(49.496, abs=1e-3)


def test_oklab_has_the_values_of_its_publication():
    """Ottosson 2020, table of example pairs (XYZ to Oklab); D65 white must be L 1, a 0, b 0."""
    assert np.allclose(colour.to_oklab(np.ones((3, 1)), colour.SRGB)[:, 0], [1, 0, 0], atol=1e-3)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        rgb = np.random.default_rng(5).random((200, 3))
        xyz = science.sRGB_to_XYZ(rgb)
        wanted = science.XYZ_to_Oklab(xyz)
    assert np.allclose(colour.to_oklab(rgb.T, colour.SRGB).T, wanted, atol=2e-3)


def test_oklab_and_back_is_the_same_colour():
    rgb = np.random.default_rng(7).random((3, 500))
    assert np.allclose(colour.from_oklab(colour.to_oklab(rgb, colour.SRGB), colour.SRGB), rgb, atol=1e-6)


def test_a_colour_out_of_gamut_keeps_lightness_and_hue():
    r, g, b = colour.from_oklch(0.7, 0.4, 150)
    lightness, chroma, hue = colour.to_oklch(np.array([[r], [g], [b]]), colour.SRGB)[:, 0]
    assert (lightness, hue) == (pytest.approx(0.7, abs=0.01), pytest.approx(150, abs=1.5))
    assert chroma < 0.4


def test_luminance_in_kernels_agrees_with_double_precision():
    planes = np.random.default_rng(9).random((3, 64, 64), dtype=np.float32)
    wanted = colour.to_encoded(colour.luminance(planes, colour.SRGB))
    assert np.abs(colour.gray_of(planes, colour.SRGB)[0] - wanted).max() < 2e-6


@pytest.mark.parametrize("text", ["#25bf21", "#A8D9A7", "#000", "#fff"])
def test_hex_and_back(text):
    whole = text if len(text) == 7 else "#" + "".join(c * 2 for c in text[1:])
    assert colour.hex_of(colour.parse_hex(text)) == whole.lower()


@pytest.mark.parametrize("text", ["25bf21", "#25bf2", "#gggggg", "", "red", "#1234567"])
def test_a_wrong_colour_says_how_to_write_one(text):
    with pytest.raises(ValueError, match="#rrggbb"):
        colour.parse_hex(text)


def test_zones_run_from_0_to_x_and_middle_gray_is_in_v():
    assert [colour.zone(v) for v in (0, 118 / 255, 1)] == ["0", "V", "X"]
