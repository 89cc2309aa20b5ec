"""Whatever the program writes, it reads; or it says before writing that it cannot, and nothing is written.

Scripts and the journal are in `core/test_shared.py`.
"""

import string
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.core.script import Script
from kyanoscript.core.stencil.shapes import Stencil, Stroke
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept import cgats, processfile, sheetfile
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.recipes import OWN, Recipe, read_recipe
from kyanoscript.files.kept.remembered import Remembered, recall, remember
from tests.strategies import any_run, declared

P = load_all()
anything = st.text(max_size=30) | st.sampled_from(
    ["", " ", "Cyanotype 1:2", "a\nb", "BEGIN_DATA\n1 2 3\nEND_DATA", '"', "\udc80", "京都 ©", "x" * 5000, "..", "/",
     "\0", "#"]
)  # fmt: skip
number = st.floats(-200, 200) | st.sampled_from([float("nan"), float("inf"), 1e308, -0.0, 0.1 + 0.2])
LAW = settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))


@pytest.fixture
def data(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    return tmp_path


def files(folder):
    return {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@LAW
@given(name=anything, group=anything, about=anything, run=any_run)
def test_recipes(data, name, group, about, run):
    book, recipe = Cookbook(), Recipe("", name, group, about, (), Script(run))
    before, target = files(data), data / "sent.json"
    target.unlink(missing_ok=True)
    try:
        kept = book.keep(recipe)
    except FileError:
        assert files(data).keys() <= before.keys()
        return
    again = read_recipe(kept.file)
    assert (again.name, again.group, again.about, again.script) == (
        name.strip(),
        group.strip() or OWN,
        about,
        Script(run),
    )
    assert any(one.file == kept.file for one in book.read().recipes)
    book.send_out(kept, target)
    assert replace(read_recipe(target), word="", file=None) == replace(again, word="", file=None)
    book.undo()


def test_a_recipe_as_long_as_a_script_may_be_is_refused_before_it_is_written(data):
    strokes = tuple(Stroke(points=tuple((float(k % 100), float(n % 100)) for n in range(300))) for k in range(400))
    long = Recipe("", "Long", "", "", (), Script((P["levels"](stencil=Stencil(shapes=strokes)),)))
    with pytest.raises(FileError, match="too long for a recipe"):
        Cookbook().keep(long)
    assert files(data) == {}


readings = st.lists(
    st.tuples(number, number, number, number), max_size=12
)  # as they may come from anywhere: not validated yet


@LAW
@given(name=anything, notes=anything, made=declared(Process, times=(), proof=(), readings=()), values=readings)
def test_processes(data, name, notes, made, values):
    unsound = tuple(Reading.model_construct(value=v, lightness=x, a=a, b=b, used=True) for v, x, a, b in values)
    process = made.model_copy(update={"name": name, "notes": notes, "readings": unsound})
    before = files(data)
    try:
        path = processfile.keep(process)
    except FileError:
        assert files(data) == before
        return
    assert processfile.read_process(path) == process
    assert process in processfile.kept()[0]
    processfile.remove(process)


@LAW
@given(name=anything, sheet=declared(Sheet), caption=anything)
def test_sheets(data, name, sheet, caption):
    sheet = sheet.model_copy(update={"marks": sheet.marks.model_copy(update={"caption": caption})})
    before = files(data)
    try:
        path = sheetfile.keep(name, sheet)
    except FileError:
        assert files(data) == before
        return
    said, again = sheetfile.read_sheet(path)
    assert (said, again) == (name or path.name.removesuffix(sheetfile.SUFFIX), sheet)
    path.unlink()


sound = st.builds(
    Reading,
    value=st.floats(0, 100).map(lambda v: round(v, 4)),
    lightness=st.floats(0, 100).map(lambda v: round(v, 4)),
    a=st.floats(-100, 100).map(lambda v: round(v, 4)),
    b=st.floats(-100, 100).map(lambda v: round(v, 4)),
)


@LAW
@given(name=anything, date=anything, rows=st.lists(sound, max_size=20))
def test_readings_as_cgats(data, name, date, rows):
    process = Process().model_copy(update={"name": name, "date": date, "readings": tuple(rows)})
    target = data / "readings.cgats"
    target.unlink(missing_ok=True)
    try:
        cgats.write_readings(target, process)
    except FileError:
        assert not target.exists()
        return
    assert cgats.read_readings(target) == tuple(rows)


file_name = st.text(string.ascii_letters + "é京 /.", min_size=1, max_size=40) | st.just("\udc80.jpg")


@LAW
@given(
    recent=st.lists(file_name, max_size=12).map(tuple),
    size=st.tuples(st.integers(960, 20_000), st.integers(600, 20_000)),
    maximised=st.booleans(),
    look=st.sampled_from(["daylight", "safelight"]),
    inset=st.booleans(),
    inks=st.lists(st.integers(0, 0xFFFFFF).map("#{:06x}".format), max_size=14).map(tuple),
    folder=file_name,
    monitor=file_name,
    memory=st.integers(0, 10**6),
)
def test_what_is_remembered(data, **state):
    remember(Remembered(**state))
    assert recall() == Remembered(**state)


def test_a_name_that_is_no_text_is_refused_in_words(data):
    """A lone surrogate, as a file's name of broken bytes becomes: UTF-8 has none."""
    for write in (
        lambda: sheetfile.keep("\udc80", Sheet()),
        lambda: processfile.keep(Process(name="Salt").model_copy(update={"name": "\udc80"})),
        lambda: Cookbook().keep(Recipe("", "\udc80", "", "", (), Script())),
    ):
        with pytest.raises(FileError, match="letters that no file can"):
            write()
    assert files(data) == {}
