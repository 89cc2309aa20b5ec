"""Reading regions and reductions of a photograph."""

import cv2
import numpy as np
import pytest
from PIL import Image

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.picture import ArraySource, Reading, Rect, read, size_at, to_integers, to_screen
from kyanoscript.ui.service.display import Viewing
from tests.conftest import make_colourful, planes_of

KINDS = [np.uint8, np.uint16]


@pytest.mark.parametrize("dtype", KINDS)
def test_full_size_values_are_the_integers_over_their_maximum(dtype):
    pixels = make_colourful(40, 60, dtype)
    out = read(ArraySource(pixels), Rect(7, 5, 30, 20), 1)
    assert np.abs(out - planes_of(pixels)[:, 5:25, 7:37]).max() < 1e-7


@pytest.mark.parametrize("scale", [0.9, 0.5, 0.31, 0.25, 0.02])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_reduction_is_an_area_mean_in_light(scale, dtype):
    """cv2.resize with INTER_AREA, between the curves of IEC 61966-2-1."""
    pixels = np.random.default_rng(2).integers(0, 65536, (301, 403, 3))
    encoded = pixels / 65535 if dtype == np.float32 else np.rint(pixels / 65535 * np.iinfo(dtype).max)
    pixels = encoded.astype(dtype)
    source = ArraySource(pixels)
    width, height = size_at(source, scale)
    top = 1.0 if dtype == np.float32 else np.iinfo(dtype).max
    light = colour.to_light(pixels / top).astype(np.float32)
    wanted = colour.to_encoded(cv2.resize(light, (width, height), interpolation=cv2.INTER_AREA))
    out = read(source, Rect(0, 0, width, height), scale)
    # Floats are looked up on 16 bits while reducing.
    assert np.abs(out - np.moveaxis(wanted, 2, 0)).max() < (4e-5 if dtype == np.float32 else 2e-6)


@pytest.mark.parametrize("scale", [0.9, 0.5, 0.31, 0.25])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_finely_reduced_is_lanczos_in_light(scale, dtype):
    """Pillow's Lanczos on light in float32, between the curves of IEC 61966-2-1."""
    rough = np.random.default_rng(2).random((300, 400, 3)).astype(np.float32)
    encoded = np.clip(cv2.GaussianBlur(rough, (0, 0), 1.2), 0, 1)
    top = 1.0 if dtype == np.float32 else np.iinfo(dtype).max
    pixels = (encoded if dtype == np.float32 else np.rint(encoded * top)).astype(dtype)
    source = ArraySource(pixels)
    width, height = size_at(source, scale)
    light = colour.to_light(pixels / top).astype(np.float32)
    small = (Image.fromarray(light[..., c]).resize((width, height), Image.Resampling.LANCZOS) for c in range(3))
    wanted = colour.to_encoded(np.clip(np.stack([np.asarray(plane) for plane in small]), 0, 1))
    out = read(source, Rect(0, 0, width, height), scale, how=Reading.WRITTEN)
    assert np.abs(out - wanted).max() < 1e-4
    part = Rect(width // 3, height // 4, width // 2, height // 2)
    within = np.s_[:, part.y : part.bottom, part.x : part.right]
    assert np.array_equal(read(source, part, scale, how=Reading.WRITTEN), out[within])
    crop = Rect(100, 50, 200, 200)
    alone = ArraySource(np.ascontiguousarray(pixels[50:250, 100:300]))
    whole = Rect(0, 0, round(200 * scale), round(200 * scale))
    assert np.array_equal(
        read(source, whole, scale, crop, Reading.WRITTEN), read(alone, whole, scale, how=Reading.WRITTEN)
    )


def test_a_pattern_too_fine_for_the_smaller_picture_is_gone():
    """0.45 cycles a pixel from 900 to 600: areas keep a third of it as a false, coarser one; Lanczos under 5 %."""
    light = 0.4 + 0.3 * np.cos(2 * np.pi * 0.45 * np.arange(900))
    source = ArraySource(np.repeat(colour.to_encoded(light).astype(np.float32)[None, :, None], 90, axis=0))

    def kept(how):
        out = colour.to_light(read(source, Rect(0, 0, 600, 60), 2 / 3, how=how))[0, 30, 20:-20]
        return np.ptp(out) / 0.6

    assert kept(Reading.MEASURED) > 0.3
    assert kept(Reading.SEEN) < 0.05
    assert kept(Reading.WRITTEN) < 0.05


@pytest.mark.parametrize("scale", [0.7, 0.37, 0.2, 0.11])
def test_a_part_that_is_read_finely_is_that_part_of_the_whole(scale):
    source = ArraySource(make_colourful(600, 900))
    whole = read(source, Rect(0, 0, *size_at(source, scale)), scale, how=Reading.WRITTEN)
    rect = Rect(11, 17, 40, 33)
    assert np.array_equal(read(source, rect, scale, how=Reading.WRITTEN), whole[:, 17:50, 11:51])
    by_areas = read(source, Rect(0, 0, *size_at(source, scale)), scale)
    assert np.abs(whole.mean((1, 2)) - by_areas.mean((1, 2))).max() < 5e-3


def test_black_and_white_lines_reduce_to_the_gray_that_is_half_as_bright():
    lines = np.zeros((64, 64), np.uint8)
    lines[::2] = 255
    out = read(ArraySource(lines), Rect(0, 0, 32, 32), 0.5)
    assert np.allclose(out, colour.to_encoded(0.5), atol=1e-5)


def test_a_reduced_region_is_the_same_part_of_the_reduced_whole():
    source = ArraySource(make_colourful(3000, 800))  # tall enough to be read in several bands
    scale = 0.37
    whole = read(source, Rect(0, 0, *size_at(source, scale)), scale)
    rect = Rect(11, 700, 200, 333)
    assert np.abs(read(source, rect, scale) - whole[:, 700:1033, 11:211]).max() < 1e-6


def test_gray_pictures_stay_one_plane():
    assert read(ArraySource(np.zeros((5, 4), np.uint16)), Rect(0, 0, 4, 5), 1).shape == (1, 5, 4)


@pytest.mark.parametrize("shape", [(5,), (5, 4, 2), (5, 4, 4), (0, 4), (2, 2, 3, 3)])
def test_other_shapes_are_refused(shape):
    with pytest.raises(ValueError, match="needs"):
        ArraySource(np.zeros(shape, np.uint8))


def test_other_types_are_refused():
    with pytest.raises(ValueError, match="int32"):
        ArraySource(np.zeros((2, 2), np.int32))


@pytest.mark.parametrize("dtype", KINDS)
def test_integers_and_back_are_the_same_integers(dtype):
    pixels = make_colourful(20, 30, dtype)
    out = np.zeros_like(pixels)
    to_integers(planes_of(pixels), dtype, out, 0)
    assert np.array_equal(out, pixels)


def test_screen_pixels_are_blue_green_red_and_opaque():
    pixels = Viewing().shown(np.array([1.0, 0.6, 0.0], np.float32).reshape(3, 1, 1), SRGB)
    assert pixels.tolist() == [[[0, 153, 255, 255]]]


def test_one_pixel_is_a_picture():
    source = ArraySource(np.array([[[10, 20, 30]]], np.uint8))
    assert size_at(source, 0.1) == (1, 1)
    assert np.allclose(read(source, Rect(0, 0, 1, 1), 0.1).ravel() * 255, [10, 20, 30], atol=1e-3)


@pytest.mark.parametrize("channels", [1, 3])
def test_a_slow_ramp_has_no_bands_on_the_screen(channels):
    """A hundredth of the way from black to white over 1600 pixels: steps of 800 pixels are spread over their places, so
    that the mean of any small part is the ramp's; gray stays gray, and a second time it is the same."""
    ramp = np.linspace(0.4, 0.41, 1600, dtype=np.float32)[None, None].repeat(64, 1).repeat(channels, 0)
    first, again = (np.zeros((64, 1600, 4), np.uint8) for _ in range(2))
    to_screen(ramp, first, 0, channels, 1600, 64, 1600)
    to_screen(ramp, again, 0, channels, 1600, 64, 1600)
    assert np.array_equal(first, again)
    assert np.array_equal(first[..., 0], first[..., 1])
    assert np.array_equal(first[..., 0], first[..., 2])
    means = first[..., 0].reshape(8, 8, 100, 16).mean((1, 3))
    assert np.abs(means - 255 * ramp[0].reshape(8, 8, 100, 16).mean((1, 3))).max() < 0.06
    assert np.abs(first[..., 0] - 255 * ramp[0]).max() < 1
    part = first.copy()
    to_screen(np.ascontiguousarray(ramp[:, 10:20, 300:350]), part, 10 * 1600 + 300, channels, 50, 10, 1600)
    assert np.array_equal(part, first)  # by its place on the screen, however it comes there


def test_what_lies_on_a_step_of_the_screen_stays_as_it_is():
    every = (np.arange(256, dtype=np.float32) / 255)[None, None].repeat(64, 1)
    out = np.zeros((64, 256, 4), np.uint8)
    to_screen(every, out, 0, 1, 256, 64, 256)
    assert np.array_equal(out[..., 1], np.arange(256)[None].repeat(64, 0))
