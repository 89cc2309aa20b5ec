"""One's own recipes: kept, changed, taken away and brought back; what is broken in the folder is named."""

import json

import numpy as np
import pytest

from kyanoscript import cli
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, loads
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept import processfile, sheetfile
from kyanoscript.files.kept.cookbook import Cookbook, folder
from kyanoscript.files.kept.recipes import Recipe, bundled, find
from kyanoscript.files.kept.scriptfile import read_script
from tests.conftest import make_colourful

PASSES = load_all()


@pytest.fixture(autouse=True)
def _own_folder(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def book():
    return Cookbook()


def made(name="Dye-house blue", **more):
    run = (PASSES["gray-weights"](red=70.0), PASSES["levels"](gamma=1.2))
    return Recipe("", name, more.pop("group", "vats"), "Deep and cold", ("levels",), Script(run), **more)


def own(book):
    return [recipe for recipe in book.read().recipes if recipe.file]


def test_the_folder_is_the_users_data_folder(tmp_path):
    assert folder() == tmp_path / "data" / "kyanoscript" / "recipes"


def test_a_kept_recipe_is_there_with_all_that_was_said_of_it(book):
    kept = book.keep(made())
    assert kept.file == folder() / "dye-house-blue.json"
    (found,) = own(Cookbook())
    assert (found.name, found.group, found.about, found.tries) == (
        "Dye-house blue",
        "vats",
        "Deep and cold",
        ("levels",),
    )
    assert found.script == made().script


def test_without_a_folder_there_are_those_that_ship(book):
    assert [recipe.word for recipe in book.read().recipes] == [recipe.word for recipe in bundled()]
    assert not folder().exists()


@pytest.mark.parametrize(
    ("name", "word"),
    [
        ("Plätte № 3", "platte-no-3"),
        ("銀", "recipe"),
        ("../../etc", "etc"),
        ("Gold", "gold-2"),
        ("x" * 300, "x" * 60),
    ],
)
def test_file_names_are_plain_free_and_within_the_folder(book, name, word):
    kept = book.keep(made(name))
    assert kept.word == word
    assert kept.file.parent == folder()


def test_a_recipe_without_a_name_could_not_be_read_again_and_is_not_written(book):
    with pytest.raises(FileError, match="it must have a name"):
        book.keep(made(" "))
    assert not folder().exists()


def test_opened_as_a_script_it_is_said_where_a_recipe_belongs(book):
    kept = book.keep(made())
    with pytest.raises(FileError, match="Recipes view"):
        read_script(kept.file)


def test_two_of_one_name_are_two_files(book):
    assert book.keep(made()).word != book.keep(made()).word
    assert len(own(book)) == 2


def test_a_file_with_the_word_of_one_that_ships_does_not_hide_it(book):
    folder().mkdir(parents=True)
    for word in ("gold", "gold-2"):
        (folder() / f"{word}.json").write_text(json.dumps(made(f"My {word}").to_json()))
    words = [recipe.word for recipe in book.read().recipes]
    assert len(set(words)) == len(words)
    assert find("gold", book.read().recipes).file is None


def test_every_change_can_be_taken_back_and_done_again(book):
    kept = book.keep(made())
    book.change(kept, "Vat blue", "Colder", "dye works")
    (found,) = own(book)
    assert (found.name, found.about, found.group, found.word) == ("Vat blue", "Colder", "dye works", kept.word)
    book.remove(found)
    assert own(book) == []
    assert book.undo_label == "delete Vat blue"
    book.undo()
    assert [recipe.name for recipe in own(book)] == ["Vat blue"]
    book.undo()
    assert [recipe.name for recipe in own(book)] == ["Dye-house blue"]
    book.undo()
    assert own(book) == []
    assert book.undo_label == ""
    for _ in range(3):
        book.redo()
    assert own(book) == []
    assert book.redo_label == ""


def test_taking_back_does_not_overwrite_what_another_program_has_done(book):
    kept = book.keep(made())
    book.change(kept, "Vat blue", "", "vats")
    kept.file.write_text("something else")
    with pytest.raises(FileError, match="another program"):
        book.undo()
    assert kept.file.read_text() == "something else"
    assert book.undo_label == "rename Dye-house blue"  # it can still be tried


def test_recipes_that_ship_are_not_changed(book):
    recipe = bundled()[0]
    for change in (lambda: book.remove(recipe), lambda: book.change(recipe, "x", "", "y")):
        with pytest.raises(FileError, match="ships with the program"):
            change()


def test_what_goes_out_comes_in_elsewhere_the_same(book, tmp_path, monkeypatch):
    out = tmp_path / "for-a-friend.json"
    book.send_out(find("night", book.read().recipes), out)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "elsewhere"))
    other = Cookbook()
    other.bring_in(out)
    (found,) = own(other)
    assert found.script == find("night", bundled()).script
    assert (found.name, found.word) == ("Night vision", "night-vision")


def test_files_that_are_no_recipes_are_named_and_left_alone(book, capsys):
    folder().mkdir(parents=True)
    (folder() / "half.json").write_text("{")
    (folder() / "plain.json").write_text('{"kyanoscript": 1, "passes": []}')
    (folder() / "deep.json").write_text("[" * 100_000)
    (folder() / "long.json").write_text('{"a": "' + "x" * (1 << 20) + '"}')
    (folder() / "folder.json").mkdir()
    (folder() / "notes.txt").write_text("not looked at")
    book.keep(made())
    found = book.read()
    named = [line.split(":")[0] for line in found.broken]
    assert named == [
        "deep.json",
        "folder.json",
        "half.json",
        "long.json",
        "plain.json",
    ]
    assert [recipe.name for recipe in found.recipes if recipe.file] == ["Dye-house blue"]
    assert (folder() / "half.json").read_text() == "{"
    assert cli.main(["recipes"]) == 0
    said = capsys.readouterr()
    assert "half.json" in said.err
    assert "Dye-house blue" in said.out


def test_a_folder_that_cannot_be_written_is_said_in_one_line(book, tmp_path):
    (tmp_path / "data").write_text("a file in its place")
    with pytest.raises(FileError, match=r"recipes|dye-house-blue"):
        book.keep(made())
    assert book.undo_label == ""
    assert book.read().recipes == tuple(bundled())


def test_one_of_ones_own_renders_by_command(book, tmp_path, capsys):
    from PIL import Image

    photo, out = tmp_path / "p.png", tmp_path / "o.png"
    Image.fromarray(make_colourful(40, 60)).save(photo)
    book.keep(made())
    assert cli.main(["render", str(photo), "--recipe", "dye-house-blue", "-o", str(out)]) == 0
    assert out.exists()
    assert cli.main(["recipes", "dye-house-blue", "--json"]) == 0
    assert json.loads(capsys.readouterr().out.split("\n", 1)[1])["group"] == "vats"


# How a recipe is laid on


def rendered(script):
    source = ArraySource(make_colourful(60, 90))
    return Renderer(source, script).region(Rect(0, 0, 90, 60))


@pytest.mark.parametrize("word", ["night", "metal-gold", "crossed", "snapshot"])
def test_less_than_the_whole_look_lies_between_picture_and_look(word):
    recipe, before = find(word, bundled()), loads('{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": 1.3}]}')
    whole, nothing = rendered(recipe.used(before, added=True)), rendered(before)
    assert np.allclose(rendered(recipe.used(before, 99.999, added=True)), whole, atol=2e-4)
    assert np.allclose(rendered(recipe.used(before, 0.0, added=True)), nothing, atol=1e-6)
    half = rendered(recipe.used(before, 50.0, added=True))
    low, high = np.minimum(whole, nothing), np.maximum(whole, nothing)
    assert ((half >= low - 1e-4) & (half <= high + 1e-4)).all()


def test_used_in_place_of_the_run_the_frame_stays():
    script = loads('{"kyanoscript": 1, "frame": {"tilt": 2}, "passes": [{"pass": "negative"}]}')
    recipe = find("sepia-bath", bundled())
    assert recipe.used(script).passes == recipe.script.passes
    assert recipe.used(script).frame == script.frame
    assert recipe.used(script, added=True).passes == (*script.passes, *recipe.script.passes)


def test_one_variable_moves_all_that_is_ones_own(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path))
    assert (folder(), sheetfile.folder(), processfile.folder()) == tuple(
        tmp_path / kind for kind in ("recipes", "sheets", "processes")
    )
