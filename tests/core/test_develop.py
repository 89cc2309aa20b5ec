"""Developing a raw: white balance against colour-science, highlights, exposure before clipping."""

import warnings

import numpy as np
import pytest
from tools.demo_raw import FROM_XYZ, camera_for, channels_of

from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, SRGB
from kyanoscript.core.develop import Camera, CameraSource, Develop, White, gains_for, seen_white
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.analysis import gray_under
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps, loads, with_value
from kyanoscript.core.script.complaint import ScriptError

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as science

CAMERA = camera_for(White(4300, 8))


def source(light, white=0.5, camera=CAMERA):
    """Linear sRGB ``(3, h, w)`` as the camera sees it, stored as a raw is read."""
    shot = np.array(camera.shot).reshape(3, 1, 1)
    stored = channels_of(np.asarray(light, np.float64), camera, white) * shot / shot.max()
    return CameraSource(np.rint(np.moveaxis(stored, 0, 2) * 65535).astype(np.uint16), camera)


def linear(raw, **values):
    """What it is developed to, in linear sRGB ``(3, h, w)``."""
    made = raw.develop(Develop(**values)).window(Rect(0, 0, raw.width, raw.height))
    return np.tensordot(BT2020.linear_to(SRGB), colour.to_light(np.moveaxis(made, 2, 0)), 1)


PATCHES = np.array([[0.18, 0.18, 0.18], [0.4, 0.1, 0.05], [0.05, 0.2, 0.08], [0.06, 0.09, 0.3]]).T.reshape(3, 2, 2)


def test_a_raw_is_developed_to_the_colours_that_the_camera_saw():
    """As shot, with the camera's matrix: linear sRGB comes back, at the level that the camera was set to."""
    assert np.abs(linear(source(PATCHES)) - PATCHES * 0.5).max() < 2e-4


def test_one_stop_is_twice_the_light():
    raw = source(PATCHES, 0.3)
    assert np.allclose(linear(raw, exposure=1.0), 2 * linear(raw), atol=1e-5)


@pytest.mark.parametrize("kelvin", [2500, 4000, 6500, 10_000])
def test_temperature_lies_on_the_locus_of_black_bodies(kelvin):
    """Against colour-science's Planckian locus, by Planck's law: within 1 % of the temperature."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        uv = science.temperature.CCT_to_uv_Ohno2013((kelvin, 0.0))
        xy = science.UCS_uv_to_xy(uv)
    camera = Camera(tuple(np.eye(3).ravel()), (1.0, 1.0, 1.0))  # it sees XYZ itself
    r, _, b = gains_for(camera, White(kelvin, 0))
    x, y, z = 1 / r, 1.0, 1 / b
    found = np.array([x, y]) / (x + y + z)
    assert np.abs(found - xy).max() < 2e-3
    back = seen_white(camera, gains_for(camera, White(kelvin, 0)))
    assert back.kelvin == pytest.approx(kelvin, rel=1e-4)


@pytest.mark.parametrize(("kelvin", "tint"), [(2100, 0), (3200, -40), (4300, 8), (7000, 100), (20_000, -20)])
def test_white_there_and_back(kelvin, tint):
    found = seen_white(CAMERA, gains_for(CAMERA, White(kelvin, tint)))
    assert found.kelvin == pytest.approx(kelvin, rel=1e-3)
    assert found.tint == pytest.approx(tint, abs=0.2)


def test_a_lower_temperature_makes_the_print_cooler_and_more_tint_less_pink():
    """The light that is to look white is told: calling it a lamp takes its warmth away."""
    raw = source(np.full((3, 2, 2), 0.2))
    lamp, shade = linear(raw, white="own", kelvin=3000.0), linear(raw, white="own", kelvin=8000.0)
    assert lamp[2, 0, 0] / lamp[0, 0, 0] > 1.3
    assert shade[2, 0, 0] / shade[0, 0, 0] < 0.8
    pink = linear(raw, white="own", kelvin=4300.0, tint=60.0)
    assert pink[1, 0, 0] > pink[0, 0, 0]  # a pink light taken for white leaves green


def test_as_shot_is_what_its_own_values_say():
    raw = source(PATCHES)
    told = seen_white(CAMERA, CAMERA.shot)
    own = linear(raw, white="own", kelvin=round(told.kelvin), tint=round(told.tint, 1))
    assert np.abs(own - linear(raw)).max() < 2e-3


def test_pressing_on_something_gray_makes_it_gray():
    """Under another light than the camera thought: the place that is pressed comes out neutral."""
    lamp = camera_for(White(2900, -10))
    wrong = Camera(FROM_XYZ, CAMERA.shot)
    seen = source(np.full((3, 8, 8), 0.2), 0.5, lamp).pixels / np.array(lamp.shot) * max(lamp.shot)
    raw = CameraSource(np.rint(seen * np.array(wrong.shot) / max(wrong.shot)).astype(np.uint16), wrong)
    assert np.ptp(linear(raw)[:, 4, 4]) > 0.02
    found = gray_under(Renderer(raw, Script()), raw, 0.5, 0.5, 2)
    assert found.kelvin == pytest.approx(2900, rel=0.01)
    made = linear(raw, white="own", kelvin=round(found.kelvin), tint=round(found.tint, 1))
    assert np.ptp(made[:, 4, 4]) / made[:, 4, 4].mean() < 0.01


RAMP = np.repeat(np.linspace(0, 4, 64).reshape(1, 1, 64), 3, 0)  # a neutral light, up to four times white


@pytest.mark.parametrize("how", ["clip", "blend", "rebuild"])
def test_highlights_are_never_tinted_and_never_fall(how):
    """Channels are full one after another; cut off singly they would turn pink."""
    made = linear(source(RAMP, 1.0), highlights=how)[:, 0]
    assert np.ptp(made, axis=0).max() < 2e-3
    assert np.diff(made.mean(axis=0)).min() > -1e-3


def test_highlights_keep_what_the_channels_still_tell():
    cut, blended, rebuilt = (
        linear(source(RAMP, 1.0), highlights=how)[:, 0].mean(axis=0).max() for how in ("clip", "blend", "rebuild")
    )
    assert cut == pytest.approx(1.0, abs=0.01)
    assert blended > cut + 0.2
    assert rebuilt > cut + 0.5


def test_lights_beyond_white_come_back_when_it_is_exposed_down():
    raw = source(np.full((3, 2, 2), 1.4), 1.0)
    assert linear(raw, highlights="rebuild")[0, 0, 0] > 1.3
    down = Script(develop=Develop(exposure=-1.0, highlights="rebuild"))
    assert Renderer(raw, down).region(Rect(0, 0, 2, 2)).max() < 0.9


def test_a_part_is_the_same_part_of_the_whole():
    rng = np.random.default_rng(3)
    raw = source(rng.random((3, 40, 60)), 0.6)
    script = Script(develop=Develop(white="own", kelvin=3900.0, exposure=0.3))
    whole = Renderer(raw, script).region(Rect(0, 0, 60, 40))
    assert np.array_equal(Renderer(raw, script).region(Rect(11, 7, 30, 20)), whole[:, 7:27, 11:41])


def test_it_is_written_with_the_script_and_read_again():
    script = Script(develop=Develop(white="own", kelvin=3900.0, tint=-7.0, exposure=0.35, highlights="rebuild"))
    assert loads(dumps(script)) == script
    assert "develop" not in dumps(Script())  # photographs of other kinds have none
    assert with_value(Script(), "develop.exposure=1.5").develop.exposure == 1.5
    for wrong in ("develop.exposure=9", "develop.white=warm", "develop.shine=1"):
        with pytest.raises(ScriptError, match="develop"):
            with_value(Script(), wrong)
    with pytest.raises(ScriptError, match="develop is 3"):
        loads('{"kyanoscript": 2, "passes": [], "develop": 3}')
