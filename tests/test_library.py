"""For other programs: the package as a library, arrays in and out, and no window anywhere."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import kyanoscript
from kyanoscript.cli import main
from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB

ROOT = Path(__file__).parents[1]
DEMO = "src/kyanoscript/demo/photos/ferry-landing.jpg"
TONED = {"kyanoscript": 1, "passes": [{"pass": "gray-weights"}, {"pass": "quad-tone"}]}
LUMA = {"pass": "gray-weights", "red": 21.26, "green": 71.52, "blue": 7.22, "ring": [], "basis": "encoded"}


@pytest.fixture
def ramp() -> np.ndarray:
    """A colour photograph of (24, 40): red from the left to the right, green downwards, some blue."""
    y, x = np.mgrid[0:24, 0:40]
    return np.stack([x / 39, y / 23, np.full_like(x, 0.25, float)], axis=2)


def test_five_lines_are_enough_and_give_what_a_file_would_hold(tmp_path):
    """A practitioner's own loop: the demo's photograph with a recipe, smaller, against the command's own TIFF."""
    print_ = kyanoscript.render(DEMO, recipe="sepia-bath", longer_side=300, dtype="uint16")
    assert main(["render", DEMO, "--recipe", "sepia-bath", "--longer-side", "300", "-o", str(tmp_path / "p.tif")]) == 0
    import tifffile

    assert print_.dtype == np.uint16
    assert print_.shape == (200, 300, 3)
    np.testing.assert_array_equal(print_, tifffile.imread(tmp_path / "p.tif"))


@pytest.mark.parametrize("kind", ["uint8", "uint16", "float32", "float64"])
def test_an_array_comes_back_in_its_own_type_and_the_same_print(ramp, kind):
    top = 1.0 if kind.startswith("f") else float(np.iinfo(kind).max)
    given = (ramp * top + (0 if top == 1 else 0.5)).astype(kind)
    before = given.copy()
    print_ = kyanoscript.render(given, TONED)
    fine = kyanoscript.render(ramp, TONED)
    assert print_.dtype == given.dtype
    assert print_.shape == (24, 40, 3)
    np.testing.assert_allclose(print_ / top, fine, atol=1.6 / min(top, 65535) if top > 1 else 1e-6)
    np.testing.assert_array_equal(given, before)


def test_a_gray_print_is_weighed_as_the_standard_says(ramp):
    """Luma of ITU-R BT.709-6, item 3.2: 0.2126 R′ + 0.7152 G′ + 0.0722 B′ of encoded values."""
    print_ = kyanoscript.render(ramp, {"kyanoscript": 1, "passes": [LUMA]})
    assert print_.shape == (24, 40)
    np.testing.assert_allclose(print_, ramp @ [0.2126, 0.7152, 0.0722], atol=1e-5)


def test_gray_arrays_of_both_shapes_are_the_same_photograph(ramp):
    gray = ramp[..., 0].astype(np.float32)
    one, other = kyanoscript.render(gray), kyanoscript.render(gray[..., None])
    assert one.shape == (24, 40)
    np.testing.assert_array_equal(one, other)
    np.testing.assert_allclose(one, gray, atol=1e-6)
    toned = kyanoscript.render(gray, TONED)
    assert toned.shape == (24, 40, 3)


def test_whatever_the_threads_and_the_order_in_memory(ramp):
    big = np.tile(ramp, (30, 20, 1)).astype(np.float32)
    script = {"kyanoscript": 1, "passes": [{"pass": "local-contrast"}, {"pass": "quad-tone"}, {"pass": "grain"}]}
    one = kyanoscript.render(big, script, threads=1)
    np.testing.assert_array_equal(one, kyanoscript.render(np.asfortranarray(big), script, threads=3))


def test_transparent_and_masked_parts_lie_on_white_paper_and_that_is_told(ramp):
    clear = np.dstack([ramp, np.ones((24, 40))])
    clear[:, :10, 3] = 0
    clear[:, 10:20, 3] = 0.5
    with pytest.warns(UserWarning, match="Transparent parts lie on white paper"):
        print_ = kyanoscript.render(clear)
    np.testing.assert_allclose(print_[:, :10], 1.0, atol=1e-6)
    np.testing.assert_allclose(print_[:, 10:20], ramp[:, 10:20] / 2 + 0.5, atol=1e-6)  # W3C: source over white
    np.testing.assert_allclose(print_[:, 20:], ramp[:, 20:], atol=1e-6)
    holes = np.ma.array(ramp.copy(), mask=np.zeros(ramp.shape, bool))
    holes[3, 4, 1] = np.ma.masked
    holes.data[3, 4] = np.nan  # whatever lies below the mask
    with pytest.warns(UserWarning, match="Masked values lie on white paper"):
        print_ = kyanoscript.render(holes)
    np.testing.assert_allclose(print_[3, 4], 1.0, atol=1e-6)
    np.testing.assert_allclose(print_[3, 5], ramp[3, 5], atol=1e-6)
    kyanoscript.render(np.ma.array(ramp))  # with nothing masked nothing is told: a warning would fail here
    kyanoscript.render(np.dstack([ramp, np.ones((24, 40))]))


def test_a_print_in_a_wider_space_is_the_same_colours(ramp):
    wide = kyanoscript.render(ramp, space="display-p3")
    back = colour.moved(np.moveaxis(wide, 2, 0).astype(np.float32), colour.DISPLAY_P3, SRGB)
    np.testing.assert_allclose(np.moveaxis(back, 0, 2), ramp, atol=2e-5)
    assert np.abs(wide - ramp).max() > 0.05


def test_a_file_that_is_open_already_and_a_script_from_a_file(tmp_path):
    photo = kyanoscript.open(DEMO)
    assert photo.size == (2400, 1600)
    script = tmp_path / "toned.json"
    script.write_text('{"kyanoscript": 1, "passes": [{"pass": "gray-weights"}, {"pass": "quad-tone"}]}')
    by_path = kyanoscript.render(photo, script, longer_side=120)
    np.testing.assert_array_equal(by_path, kyanoscript.render(photo, str(script), longer_side=120))
    np.testing.assert_array_equal(by_path, kyanoscript.render(photo, kyanoscript.read_script(script), longer_side=120))
    np.testing.assert_array_equal(by_path, kyanoscript.render(DEMO, TONED, longer_side=120))
    assert by_path.dtype == np.uint8
    recipe = kyanoscript.recipes()["sepia-bath"]
    assert recipe.name == "Sepia bath"
    assert kyanoscript.render(photo, recipe=recipe, longer_side=60).shape == (40, 60, 3)


def test_a_script_that_would_show_a_picture_from_elsewhere_is_refused_until_trusted(tmp_path):
    (tmp_path / "theirs").mkdir()
    Image.new("RGB", (8, 8), (200, 30, 30)).save(tmp_path / "private.png")
    script = tmp_path / "theirs" / "s.json"
    script.write_text('{"kyanoscript": 1, "passes": [{"pass": "plate", "picture": "../private.png"}]}')
    white = np.ones((8, 8, 3))
    with pytest.raises(kyanoscript.FileError, match=r"outside its own folder.*private\.png"):
        kyanoscript.render(white, script)
    assert kyanoscript.read_script(script, trust=True).passes


SMALL = np.zeros((4, 4))


@pytest.mark.parametrize(
    ("photo", "more", "words"),
    [
        (np.zeros((4, 4, 2)), {}, r"\(h, w, 3\) or \(h, w, 4\), not \(4, 4, 2\)"),
        (np.zeros((0, 4, 3)), {}, r"not \(0, 4, 3\)"),
        (np.zeros(9), {}, r"not \(9,\)"),
        (np.zeros((4, 4, 3), int), {}, "not int64"),
        (np.full((4, 4), np.nan), {}, "no finite numbers"),
        (SMALL, {"longer_side": 0}, "longer_side is 0"),
        (SMALL, {"space": "ink"}, "no space 'ink'; there are photo, srgb"),
        (SMALL, {"dtype": "int32"}, "cannot be int32"),
        (SMALL, {"threads": 0}, "threads is 0"),
        (SMALL, {"recipe": "sepai"}, "did you mean 'sepia-bath'"),
        (SMALL, {"script": {"kyanoscript": 1, "passes": [{"pass": "grian"}]}}, "'grian', which is unknown"),
        (SMALL, {"script": "nowhere.json"}, r"nowhere\.json"),
        ("nowhere.jpg", {}, r"nowhere\.jpg"),
    ],
)
def test_what_cannot_be_is_said_in_words(photo, more, words):
    with pytest.raises((ValueError, kyanoscript.ScriptError, kyanoscript.FileError), match=words):
        kyanoscript.render(photo, **more)


def test_nothing_of_the_window_is_loaded_and_nothing_at_all_before_it_is_asked_for():
    """What another program pays: the name alone costs no NumPy, and a print no Qt."""
    code = (
        "import sys, kyanoscript\n"
        "assert 'numpy' not in sys.modules and 'kyanoscript.core' not in sys.modules\n"
        "import numpy as np\n"
        "print(kyanoscript.render(np.full((9, 9, 3), 0.5), recipe='sepia-bath').shape, 'render' in dir(kyanoscript))\n"
        "assert not [name for name in sys.modules if name.startswith(('PySide6', 'shiboken6'))]\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=300)
    assert (done.stdout, done.returncode) == ("(9, 9, 3) True\n", 0), done.stderr
    with pytest.raises(AttributeError, match="no attribute 'rendre'"):
        kyanoscript.rendre  # noqa: B018


def test_every_name_is_there_typed_and_explained():
    from kyanoscript import library

    assert kyanoscript.__all__ == library.__all__
    assert Path(library.__file__).with_name("py.typed").is_file()
    for name in kyanoscript.__all__:
        assert getattr(kyanoscript, name) is getattr(library, name)
        assert getattr(kyanoscript, name).__doc__, name
    assert kyanoscript.passes()["grain"].label == "Grain"


def test_the_notebook_runs_from_its_first_cell_to_its_last():
    """Ten cells of code, in order, in one place: what they claim they assert themselves."""
    cells = [
        cell for cell in json.loads((ROOT / "docs/library.ipynb").read_text())["cells"] if cell["cell_type"] == "code"
    ]
    assert len(cells) == 10
    space: dict[str, object] = {}
    for cell in cells:
        exec(compile("".join(cell["source"]), "library.ipynb", "exec"), space)
    assert space["followed"].found[0].key == "recipe"
    assert "Sepia bath" in space["followed"].found[0].words


def test_several_values_are_sought_in_a_few_lines(ramp):
    search = kyanoscript.seek(ramp, TONED, ["gray-weights.red", ("gray-weights.blue", 0, 30)], side=3)
    assert len(search.scripts()) == 9
    assert all(0 <= script.passes[0].blue <= 30 for script in search.scripts())
    taken = search.scripts()[5]
    assert search.choose(5).script(search.choose(5).best) == taken
    with pytest.raises(kyanoscript.ScriptError, match="2 to 12"):
        kyanoscript.seek(ramp, TONED, ["gray-weights.red"])
    with pytest.raises(kyanoscript.ScriptError, match="gama"):
        kyanoscript.seek(ramp, {"kyanoscript": 1, "passes": [{"pass": "levels"}]}, ["levels.gama", "levels.clip"])
    with pytest.raises(ValueError, match="3 or 5"):
        kyanoscript.seek(ramp, TONED, ["gray-weights.red", "gray-weights.blue"], side=7)


def test_a_print_is_followed_in_two_lines():
    print_ = kyanoscript.render(DEMO, recipe="iron-blue", longer_side=500)
    found = kyanoscript.after(print_, DEMO, known=False)
    assert found.same
    again = kyanoscript.render(DEMO, found.script(kyanoscript.Script()), longer_side=500)
    assert np.abs(again.astype(float) - print_).mean() < 6
    with pytest.raises(kyanoscript.FileError, match="gone"):
        kyanoscript.after("gone.jpg", DEMO)
    with pytest.raises(ValueError, match="float16"):
        kyanoscript.after(print_.astype(np.float16), DEMO)
