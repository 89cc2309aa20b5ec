"""Recipes that ship: all of them open, fit any picture, and each is the look it is called."""

import functools
import json

import cv2
import numpy as np
import pytest
from PIL import Image

from kyanoscript import cli, demo
from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.geometry import framing
from kyanoscript.core.picture import ArraySource, Rect, read, size_at
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, ScriptError, dumps, loads
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.recipes import GROUPS, bundled, find, read_recipe
from kyanoscript.files.kept.scriptfile import write_script
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from tests.conftest import make_colourful

RECIPES = {recipe.word: recipe for recipe in bundled()}
each = pytest.mark.parametrize("word", RECIPES)


@pytest.fixture(scope="module")
def table():
    return open_photo(demo.photo("table-by-the-window")).source


@functools.cache
def demo_photo(name, longer):
    """A demo photograph reduced, and a cache for its prints: what two recipes begin with is made once."""
    source = open_photo(demo.photo(name)).source
    scale = longer / max(source.width, source.height)
    planes = read(source, Rect(0, 0, *size_at(source, scale)), scale)
    return ArraySource(np.ascontiguousarray(np.moveaxis(planes, 0, -1))), TileCache()


def printed(word, source, longer=360, cache=None):
    """The print of a recipe, encoded ``(3, h, w)``."""
    script = RECIPES[word].script
    renderer = Renderer(source, script, cache)
    scale = min(1.0, longer / max(renderer.size(1.0)))
    return in_colour(renderer.region(Rect(0, 0, *renderer.size(scale)), scale)).astype(np.float64)


def wedge(word):
    """What 256 grays become, away from rims: encoded ``(3, 256)``."""
    gray = np.repeat(np.repeat(np.arange(256, dtype=np.uint8)[None], 240, axis=0), 1, axis=1)
    return printed(word, ArraySource(gray))[:, 100:140].mean(axis=1)


def test_there_are_enough_of_every_group_and_no_name_twice():
    assert len(RECIPES) >= 32
    assert {recipe.group for recipe in RECIPES.values()} == set(GROUPS)
    assert len({recipe.name for recipe in RECIPES.values()}) == len(RECIPES)


@each
def test_it_is_told_in_one_line_and_its_strengths_are_there(word):
    recipe = RECIPES[word]
    assert 10 < len(recipe.about) < 80
    assert recipe.tries
    assert set(recipe.tries) <= {p.kind for p in recipe.script.passes}
    assert loads(dumps(recipe.script)) == recipe.script


@each
@pytest.mark.parametrize("size", [(90, 60), (60, 90), (200, 40), (1, 1)])
def test_it_works_on_a_picture_of_any_size_and_orientation(word, size):
    source = ArraySource(np.ascontiguousarray(make_colourful(200, 200)[: size[1], : size[0]]))
    out = printed(word, source)
    framed = framing(RECIPES[word].script.frame, *size).size(1.0)
    assert out.shape == (3, *framed[::-1])
    assert np.isfinite(out).all()


@each
def test_lengths_carry_over_to_another_resolution(word):
    photo = make_colourful(480, 720)
    large, small = ArraySource(photo), ArraySource(photo.reshape(240, 2, 360, 2, 3).mean(axis=(1, 3)).astype(np.uint8))
    a, b = printed(word, large, 120), printed(word, small, 120)
    assert np.abs(a - b).mean() < 0.03


@each
@pytest.mark.parametrize("name", demo.NAMES)
def test_it_clips_at_most_two_per_cent_of_a_well_exposed_picture(word, name):
    source, cache = demo_photo(name, 320)
    gray = colour.luminance(printed(word, source, 240, cache), colour.SRGB)
    black, white = (colour.to_light(np.array([level / 255]))[0] for level in (0.5, 254.5))
    assert (gray <= black).mean() <= 0.02
    assert (gray >= white).mean() <= 0.02


# What makes each the look it is


@pytest.mark.parametrize("name", demo.SCANS)
@pytest.mark.parametrize("word", ["old-portrait", "old-street", "old-landscape"])
def test_old_scans_are_mended_opened_and_coloured(word, name):
    source, cache = demo_photo(name, 720)
    planes = Renderer(source, Script()).region(Rect(0, 0, source.width, source.height))
    out = printed(word, source, 720, cache)
    gray, before = colour.gray_of(out.astype(np.float32), colour.SRGB)[0], colour.gray_of(planes, colour.SRGB)[0]
    assert np.hypot(*colour.to_oklab(out, colour.SRGB)[1:]).mean() > 0.006  # some colour
    assert np.subtract(*np.percentile(gray, (95, 5))) > np.subtract(*np.percentile(before, (95, 5)))  # fuller tones
    damage = cv2.imread(str(demo.photo(name)).replace("-scan.jpg", "-damage.png"), cv2.IMREAD_GRAYSCALE)
    small = cv2.resize(damage, out.shape[:0:-1], interpolation=cv2.INTER_NEAREST) == 255
    opened = printed_without_mending(word, source)
    assert np.abs(gray - opened)[small].mean() > 4 * np.abs(gray - opened)[~small].mean()


def printed_without_mending(word, source):
    """The gray of the same recipe with nothing looked for."""
    first, *rest = RECIPES[word].script.passes
    script = Script((first.model_copy(update={"sensitivity": 0.0}), *rest))
    planes = Renderer(source, script).region(Rect(0, 0, source.width, source.height))
    return colour.gray_of(planes, colour.SRGB)[0]


@pytest.mark.parametrize("word", ["eye", "ortho", "blue-sensitive", "glass-red", "opened", "studio"])
def test_plain_recipes_are_gray(word, table):
    out = printed(word, table)
    assert np.ptp(out, axis=0).max() < 1e-4


def test_glasses_lighten_their_own_colour_and_darken_the_opposite():
    red, blue = (ArraySource(np.full((8, 8, 3), c, np.uint8)) for c in ((200, 60, 50), (50, 70, 190)))
    for word, more in (("glass-red", red), ("glass-orange", red), ("glass-blue", blue), ("blue-sensitive", blue)):
        less = blue if more is red else red
        assert printed(word, more).mean() > printed(word, less).mean() + 0.1, word
        assert printed(word, more).mean() > printed("eye", more).mean(), word


def test_high_key_is_light_and_low_key_is_dark(table):
    eye, high, low = (np.median(printed(word, table)[1]) for word in ("eye", "high-key", "low-key"))
    assert high > eye + 0.1
    assert low < eye - 0.08


@pytest.mark.parametrize("name", demo.NAMES)
def test_keys_are_judged_by_the_picture_a_dark_one_becomes_high_key_too(name):
    source = open_photo(demo.photo(name)).source
    high, low = (np.median(printed(word, source)[1]) for word in ("high-key", "low-key"))
    assert 0.6 < high < 0.85
    assert 0.02 < low < 0.25


@pytest.mark.parametrize("word", ["sepia-bath", "sepia-scratch", "sepia-faded"])
def test_sepias_have_warm_lights_warmer_than_their_darks(word):
    lab = colour.to_oklab(wedge(word), colour.SRGB)
    assert lab[2, 200] > 0.012
    assert lab[2, 200] > lab[2, 25]


def test_crossed_curves_and_quad_cream_split_the_tones():
    for word in ("crossed", "quad-cream"):
        out = wedge(word)
        assert out[2, 60] > out[0, 60], word
        assert out[0, 205] > out[2, 205], word


def test_liths_have_warm_or_olive_lights_gritty_blacks_and_open_middles():
    for word in ("lith-warm", "lith-cold"):
        out = wedge(word)
        assert out[0, 190] > out[2, 190]
        lightness = colour.to_oklab(out, colour.SRGB)[0]
        assert np.diff(lightness)[90:160].mean() > 0
        flat = printed(word, ArraySource(np.full((300, 2400), 70, np.uint8)), 2400)[1]
        assert flat.std() > 0.04  # grain, at a photograph's own pixels; a small print holds many grains in each


def test_metals_go_dark_bright_darker_white_along_their_map():
    for word in ("metal-gold", "metal-silver", "metal-copper"):
        gradient = next(p for p in RECIPES[word].script.passes if p.kind == "gradient-map")
        light = [
            colour.to_oklch(np.array(colour.parse_hex(c)).reshape(3, 1), colour.SRGB)[0, 0] for _, c in gradient.stops
        ]
        assert light[0] < light[1] < light[2]
        assert light[3] < light[2]
        assert light[3] < light[4] < light[5]
    hue = colour.to_oklch(np.array(colour.parse_hex("#e9c75a")).reshape(3, 1), colour.SRGB)[2, 0]
    assert 80 < hue < 100  # gold is yellow


def test_night_vision_is_green_lined_and_sharp_in_the_middle_alone(table):
    lightness, chroma, hue = colour.to_oklch(printed("night", table, 720), colour.SRGB)
    mids = (lightness > 0.35) & (lightness < 0.8) & (chroma > 0.05)
    assert 135 < np.median(hue[mids]) < 155
    rng = np.random.default_rng(1)
    noise = ArraySource(np.clip(128 + rng.normal(0, 40, (600, 900)), 0, 255).astype(np.uint8))
    script = Script(
        tuple(p for p in RECIPES["night"].script.passes if p.kind not in ("grain", "lines", "lettering", "bloom"))
    )
    print_ = in_colour(Renderer(noise, script).region(Rect(0, 0, 900, 600)))[1]
    middle, rim = print_[270:330, 420:480], print_[270:330, 20:80]
    assert middle.std() / middle.mean() > 1.5 * rim.std() / rim.mean()
    pitch = next(p.pitch for p in RECIPES["night"].script.passes if p.kind == "lines")
    flat = printed("night", ArraySource(np.full((600, 900), 140, np.uint8)), 900)[1][150:450, 400:500].mean(axis=1)
    spectrum = np.abs(np.fft.rfft(flat - flat.mean()))
    spectrum[:20] = 0  # the vignette
    assert 300 / np.argmax(spectrum) == pytest.approx(pitch / 1000 * 900, rel=0.06)


def test_a_poster_has_two_tones_and_little_texture(table):
    recipe = RECIPES["poster"]
    flat = Script(tuple(p for p in recipe.script.passes if p.kind != "texture"))
    scale = 360 / table.width
    out = in_colour(Renderer(table, flat).region(Rect(0, 0, 360, 240), scale)).reshape(3, -1).T
    ends = np.array([colour.parse_hex("#2b2a2d"), colour.parse_hex("#f0b84a")])
    nearest = np.abs(out[:, None] - ends[None]).max(axis=2).min(axis=1)
    assert (nearest < 0.02).mean() > 0.85
    assert next(p.strength for p in recipe.script.passes if p.kind == "texture") < 20


def test_a_found_photograph_is_askew_with_clumped_grain_a_trailed_picture_and_a_flare():
    recipe = RECIPES["found"]
    by_kind = {p.kind: p for p in recipe.script.passes}
    assert recipe.script.frame.tilt != 0
    assert by_kind["grain"].spread == "clumped"
    assert "flare" in by_kind
    placed = next(p for p in recipe.script.passes if p.kind == "plate" and p.source == "picture")
    assert [p.trail for p in placed.run if p.kind == "motion"] == [True]
    source = ArraySource(make_colourful(240, 360))
    library = Pictures(demo.photo())
    with_it, without = (
        Renderer(source, Script(passes), library=library).region(Rect(0, 0, 360, 240), 1.0)
        for passes in (recipe.script.passes, tuple(p for p in recipe.script.passes if p is not placed))
    )
    changed = np.abs(with_it - without).max(axis=0) > 0.02
    across = np.flatnonzero(changed.any(axis=0))
    assert 0.5 < across.mean() / 360 < 0.8  # where it was placed
    assert changed.mean() < 0.2


def test_a_recipes_frame_is_taken_only_where_nothing_was_framed():
    recipe = RECIPES["found"]
    assert recipe.used(Script()).frame == recipe.script.frame
    own = loads('{"kyanoscript": 1, "frame": {"tilt": -3}, "passes": []}')
    assert recipe.used(own).frame == own.frame
    assert recipe.on(own).frame == own.frame


def test_matte_and_faded_looks_raise_their_blacks():
    for word in ("matte", "snapshot", "sepia-faded", "winter"):
        assert colour.to_oklab(wedge(word), colour.SRGB)[0, 2:14].mean() > 0.2, word


# Files and the command line


def test_a_recipe_is_found_by_word_or_name_and_a_wrong_one_is_helped():
    assert find("Night vision", RECIPES.values()).word == "night"
    with pytest.raises(ScriptError, match="did you mean 'poster'"):
        find("postr", RECIPES.values())


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "JSON cannot be read"),
        ('{"kyanoscript": 1, "passes": []}', "no recipe"),
        ('{"kyanoscript": 1, "recipe": {"name": ""}, "passes": []}', "must have a name"),
        ('{"kyanoscript": 1, "recipe": {"name": "x", "try": ["levels"]}, "passes": []}', "name passes"),
        ('{"kyanoscript": 1, "recipe": {"name": "x"}, "passes": [{"pass": "levls"}]}', "did you mean 'levels'"),
    ],
)
def test_what_is_wrong_in_a_recipe_is_one_clear_line_that_names_the_file(tmp_path, text, said):
    file = tmp_path / "mine.json"
    file.write_text(text)
    with pytest.raises(FileError, match=said) as wrong:
        read_recipe(file)
    assert "mine.json" in str(wrong.value)
    with pytest.raises(FileError, match=r"gone\.json"):
        read_recipe(tmp_path / "gone.json")


def test_recipes_are_listed_described_and_rendered_by_command(capsys, tmp_path):
    assert cli.main(["recipes"]) == 0
    listed = capsys.readouterr().out
    assert all(word in listed for word in RECIPES)
    assert cli.main(["recipes", "night", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["group"] == "effects"
    assert [p["pass"] for p in told["passes"]] == [p.kind for p in RECIPES["night"].script.passes]
    photo, after, both = tmp_path / "p.png", tmp_path / "after.json", tmp_path / "both.json"
    Image.fromarray(make_colourful(40, 60)).save(photo)
    follows = loads('{"kyanoscript": 1, "passes": [{"pass": "negative"}]}')
    after.write_text(dumps(follows))
    both.write_text(dumps(RECIPES["sepia-bath"].on(follows)))
    outs = [tmp_path / "a.png", tmp_path / "b.png"]
    assert cli.main(["render", str(photo), "--recipe", "sepia-bath", "--script", str(after), "-o", str(outs[0])]) == 0
    assert cli.main(["render", str(photo), "--script", str(both), "-o", str(outs[1])]) == 0
    assert np.array_equal(*(np.asarray(Image.open(out)) for out in outs))
    assert cli.main(["render", str(photo), "--recipe", "nigth", "-o", str(outs[0])]) == 2
    assert "did you mean 'night'" in capsys.readouterr().err


def test_a_recipe_is_suited_to_the_shape_of_the_print(tmp_path, capsys):
    """On an upright photograph by command and by hand; what was set counts."""
    with_oval = next(recipe for recipe in bundled() if any(step.kind == "vignette" for step in recipe.script.passes))
    lying, standing = with_oval.used(Script()), with_oval.used(Script(), shape=2 / 3)
    ovals = [next(step for step in script.passes if step.kind == "vignette") for script in (lying, standing)]
    assert (ovals[0].width, ovals[0].height) == (ovals[1].height, ovals[1].width)
    photo = tmp_path / "upright.png"
    Image.fromarray(make_colourful(120, 80)).save(photo)
    for values, width in (([], ovals[1].width), (["--set", "vignette.width=777"], 777)):
        script = tmp_path / f"{width}.json"
        made = tmp_path / f"{width}.png"
        assert cli.main(["render", str(photo), "--recipe", with_oval.word, *values, "-o", str(made)]) == 0
        passes = tuple(step.with_(width=float(width)) if step.kind == "vignette" else step for step in standing.passes)
        write_script(script, Script(passes), None)
        assert cli.main(["render", str(photo), "--script", str(script), "-o", str(tmp_path / "b.png")]) == 0
        with Image.open(made) as one, Image.open(tmp_path / "b.png") as other:
            assert np.array_equal(np.asarray(one), np.asarray(other))
        (tmp_path / "b.png").unlink()
