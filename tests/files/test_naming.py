"""Things kept by name: whatever they are called, no two are one file, and none is lost."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept import cgats, processfile, sheetfile

NAMES = [
    "Cyanotype 1:2", "Cyanotype 12", "Cyanotype 1/2", "cyanotype 12", "Cyanotype-12", "京", "都", "…", "??", "a" * 300,
    "a" * 301, "京" * 200, "../../escape", "-", " ", "con", ".hidden", "Ünïted",
]  # fmt: skip


@pytest.fixture(autouse=True)
def own_place(monkeypatch, tmp_path):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "data"))


def test_processes_of_like_names_are_kept_beside_each_other():
    for k, name in enumerate(NAMES):
        processfile.keep(Process(name=name, minutes=1.0 + k))
    found, broken = processfile.kept()
    assert broken == []
    assert {process.name: process.minutes for process in found} == {name: 1.0 + k for k, name in enumerate(NAMES)}
    assert all(path.parent == processfile.folder() for path in processfile.folder().rglob("*"))
    processfile.keep(Process(name="Cyanotype 1:2", minutes=99.0))  # again: the same file
    processfile.remove(Process(name="Cyanotype 12"))
    left = {process.name: process.minutes for process in processfile.kept()[0]}
    assert left["Cyanotype 1:2"] == 99.0
    assert set(left) == set(NAMES) - {"Cyanotype 12"}


def test_sheets_of_like_names_are_kept_beside_each_other():
    for k, name in enumerate(NAMES):
        sheetfile.keep(name, Sheet.of(width=100.0 + k))
    assert dict(sheetfile.kept()) == {name: Sheet.of(width=100.0 + k) for k, name in enumerate(NAMES)}
    sheetfile.keep("Cyanotype 12", Sheet.of(width=50.0))
    kept = dict(sheetfile.kept())
    assert kept["Cyanotype 12"].paper.width == 50
    assert kept["Cyanotype 1:2"].paper.width == 100


words = st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=200)


@settings(max_examples=60, suppress_health_check=list(HealthCheck))
@given(names=st.lists(words, unique=True, min_size=1, max_size=4))
def test_any_names(tmp_path_factory, monkeypatch, names):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path_factory.mktemp("any")))
    for name in names:
        sheetfile.keep(name, Sheet())
    assert sorted(name for name, _ in sheetfile.kept()) == sorted(names)


# What could not be read again


@pytest.mark.parametrize("number", ["nan", "inf", "-inf", "1e308", "-1e308", "200"])
@pytest.mark.parametrize("field", ["CMYK_K", "LAB_L", "LAB_A", "LAB_B"])
def test_readings_that_are_no_numbers_are_refused_where_they_come_in(number, field):
    row = {"CMYK_K": "50", "LAB_L": "40", "LAB_A": "1", "LAB_B": "2", field: number}
    text = f"BEGIN_DATA_FORMAT\n{' '.join(row)}\nEND_DATA_FORMAT\nBEGIN_DATA\n{' '.join(row.values())}\nEND_DATA\n"
    with pytest.raises(ValueError, match=r"-128…128|0…100 %|cannot be"):
        cgats.parsed(text)


@pytest.mark.parametrize("number", [float("nan"), float("inf"), 1e308])
@pytest.mark.parametrize("field", ["value", "lightness", "a", "b"])
def test_a_process_that_could_not_be_read_again_is_not_written(tmp_path, number, field):
    path = tmp_path / "blue.process.json"
    processfile.write_process(path, Process(name="Blue"))
    before = path.read_bytes()
    reading = Reading(value=50.0, lightness=40.0).model_copy(update={field: number})
    with pytest.raises(FileError, match=r"blue\.process\.json: the process could not be read again"):
        processfile.write_process(path, Process(name="Blue").model_copy(update={"readings": (reading,)}))
    assert path.read_bytes() == before


@pytest.mark.parametrize(
    "filling", ["\n", " \n", "BEGIN_DATA\n", "BEGIN_DATA_FORMAT\n", "END_DATA\n", '"', '" ', "NUMBER_OF_SETS "]
)
def test_a_text_of_any_filling_is_read_in_one_go(filling):
    """A list of some kilobytes once took minutes: work that grows with the square of the text, or its cube.

    Steps of the interpreter are counted, not seconds: four times the text takes four times as many, and a few.
    """
    import sys

    def steps(size):
        count = 0

        def step(*_):
            nonlocal count
            count += 1
            return step

        text = f"BEGIN_DATA_FORMAT\n{filling * size}\nBEGIN_DATA\n{filling * size}"
        before = sys.gettrace()
        sys.settrace(step)
        try:
            cgats.parsed(text)
        except ValueError:
            pass
        finally:
            sys.settrace(before)
        return count

    assert steps(8000) < 6 * steps(2000) + 1000


def test_nothing_is_looked_for_again_and_again(monkeypatch):
    """And what the interpreter does not count, patterns that go back, is only used within a line."""
    text = "BEGIN_DATA_FORMAT" + "\n" * 2_000_000 + "BEGIN_DATA" + "\n" * 2_000_000
    with pytest.raises(ValueError, match="END_DATA_FORMAT is missing"):
        cgats.parsed(text)  # with a pattern over lines: days
