"""The script's JSON form.

Reading is forgiving in one way only: a parameter that is not given has its default. Everything else that is wrong is
one clear line (see `complaint`). Version 1 (Kyanoscript 0.1) had no identities, sheets and states; its files open for
ever. Version 3 is written where there are states, which older programs would not understand; what a state has in common
with the one before it (the first: with the script) is told by its passes' identities and the names of the entries.
Version 4 is written where shapes, strokes, dabs or marks stand in several of them: see `shared`. Version 6 is written
where there are sheets: in version 5 their plates knew no press, before that their values all stood beside each other.
Version 7 is written where a pass is of a later form (see `kyanoscript.core.passes.base.form`), which alone is told.
"""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

from kyanoscript.core import passes
from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import HOME, Sheet, in_parts
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.core.quoting import cut, quoted
from kyanoscript.core.script.complaint import ScriptError, nearest, read, show
from kyanoscript.core.script.data import MOST_PASSES, Script, State
from kyanoscript.core.script.identity import placed
from kyanoscript.core.script.shared import Shelf, Told, lists_of
from kyanoscript.core.script.walk import walk
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import tr

VERSION = 7
# Written where there are neither states nor sheets; where there are states; where they share something
_PLAIN, _WITH_STATES, _SHARING, _WITH_SHEETS, _WITH_FORMS = 2, 3, 4, 6, 7
MOST_STATES = 1000
LONGEST = 64 << 20  # bytes of a script in a file, written and read
MOST_LISTS = 2_000_000  # in it, and objects: of ten thousand strokes each may have two hundred places

# Names that older scripts use: (pass, old parameter) -> new parameter; (old pass, "") -> new pass. Only ever added to.
RENAMES: dict[tuple[str, str], str] = {}

_MOST_IN_ALL = 4 * MOST_PASSES
_BODY = ("frame", "develop", "stencils", "passes")
_NUMBERS = ("number", "steps", "origin")
_STATE = ("name", "note", "kept", *_NUMBERS, "as_before", *_BODY)
_ENTRIES = ("kyanoscript", *_BODY, "sheets", "states", "origin", "shared")
_MOST_NUMBER = 3999
_DEEP = 8  # plates within plates
_IDENTITY = 32  # characters
_UNBOUNDED = 400  # per cent of ink: sheets that say nothing of it are from before it was asked


# Writing


def to_json(script: Script, identities: bool = True) -> dict[str, Any]:
    """The script as plain data; every value is written, so that a later change of a default changes no print.

    Without ``identities`` it is a piece to be used elsewhere, where its passes are others.
    """
    every = (script, *(state.script for state in script.states))
    shelf = Shelf((each.passes, [named for _, named in each.stencils]) for each in every) if script.states else None
    entries = shelf.entries if shelf is not None else []
    data: dict[str, Any] = {"kyanoscript": _version(script, bool(entries)), **_body(script, identities, shelf)}
    if entries:
        data["shared"] = entries
    if script.sheets:
        data["sheets"] = {name: sheet.plain() for name, sheet in script.sheets}
    if script.states:
        data["origin"] = script.origin
        before, data["states"] = script, []
        for state in script.states:
            data["states"].append(_state_to_json(state, before, identities, shelf))
            before = state.script
    return data


def _version(script: Script, shares: bool) -> int:
    """The first version that has all that is in it."""
    every = (script, *(state.script for state in script.states))
    if any(step.which_form > 1 for each in every for step in walk(each.passes)):
        return _WITH_FORMS
    return _WITH_SHEETS if script.sheets else _SHARING if shares else _WITH_STATES if script.states else _PLAIN


def _state_to_json(state: State, before: Script, identities: bool, shelf: Shelf | None) -> dict[str, Any]:
    """A state; what it has in common with the script before it is only named."""
    script = state.script
    body = _body(script, identities, shelf)
    same = [name for name in ("frame", "develop", "stencils") if getattr(script, name) == getattr(before, name)]
    for name in same:
        body.pop(name, None)
    if identities:
        known = {step.id: step for step in before.passes}
        for k, step in enumerate(script.passes):
            other = known.get(step.id)
            if other is step or (other == step and pass_to_json(other, True, shelf) == body["passes"][k]):
                body["passes"][k] = step.id
    told = {"name": state.name, "note": state.note, "kept": state.kept, "number": state.number, "steps": state.steps}
    return {**told, "origin": script.origin, "as_before": same, **body}


def _body(script: Script, identities: bool, shelf: Shelf | None = None) -> dict[str, Any]:
    data: dict[str, Any] = {}
    if script.frame != Frame():
        data["frame"] = script.frame.plain()
    if script.develop != Develop():
        data["develop"] = script.develop.plain()
    if script.stencils:
        data["stencils"] = {
            name: stencil.plain() if shelf is None else shelf.stencil(stencil) for name, stencil in script.stencils
        }
    return {**data, "passes": [pass_to_json(step, identities, shelf) for step in script.passes]}


def pass_to_json(step: Pass, identities: bool = True, shelf: Shelf | None = None) -> dict[str, Any]:
    """One pass as plain data: its name, its own parameters, then what every pass has."""
    names = [name for name in step.params() if name != "run"]
    long: dict[str, Any] = {}
    if shelf is not None:
        long = {name: shelf.told(getattr(step, name)) for name in lists_of(type(step))}
        if isinstance(step.stencil, Stencil):
            long["stencil"] = shelf.stencil(step.stencil)
    values = {**step.plain(include=set(names) - long.keys()), **long}
    own = {name: values[name] for name in names if name not in COMMON and _told(step, name)}
    if "run" in step.params():
        own["run"] = [pass_to_json(inner, identities, shelf) for inner in step.run]
    common = {name: values[name] for name in COMMON}
    for name, nothing in (("stencil", None), ("name", ""), ("note", "")):
        if common[name] == nothing:
            del common[name]
    identity = {"id": step.id} if step.id and identities else {}
    return {"pass": step.kind, **identity, **own, **common}


def _told(step: Pass, name: str) -> bool:
    """Whether a parameter is written: of a pass's first form only what that form has, for older programs."""
    if step.which_form > 1:
        return True
    later = step.params()[name].when[:1] == ("of",)
    return name != "of" and not (later and getattr(step, name) == type(step).model_fields[name].default)


def dumps(script: Script) -> str:
    """The script as JSON text, to be read by people too."""
    return json.dumps(to_json(script), indent=2, ensure_ascii=False) + "\n"


def packed(script: Script) -> bytes:
    """The script as JSON text without what only people need. Raises ScriptError if it is longer than what is read."""
    data = json.dumps(to_json(script), separators=(",", ":"), ensure_ascii=False).encode()
    check_length(data)
    return data


def check_length(data: bytes) -> None:
    """Raises ScriptError for the text of a script that is longer, or holds more lists, than is read again."""
    if len(data) > LONGEST:
        raise ScriptError(
            tr(
                "it takes {count:.0f} MB and may take {longest}; let some states go, or strokes",
                count=len(data) / (1 << 20),
                longest=LONGEST >> 20,
            )
        )
    _check_lists(data)


def _check_lists(text: str | bytes) -> None:
    """Every place of a brush is a list: millions of them would take minutes, and all memory, to read."""
    count = text.count("[") + text.count("{") if isinstance(text, str) else text.count(b"[") + text.count(b"{")
    if count > MOST_LISTS:
        raise ScriptError(
            tr("it has more than {most_lists} places of strokes; let some states go, or strokes", most_lists=MOST_LISTS)
        )


# Reading


def loads(text: str | bytes) -> Script:
    """The script in JSON text. Raises ScriptError with one clear line."""
    _check_lists(text)
    try:
        data = json.loads(text)
    except json.JSONDecodeError as wrong:
        place = tr("line {lineno}, column {colno}", lineno=wrong.lineno, colno=wrong.colno)
        raise ScriptError(tr("this is not a script: the JSON cannot be read from {place} on", place=place)) from wrong
    except (ValueError, RecursionError) as wrong:  # no text, a number of thousands of digits, too deep
        raise ScriptError(tr("this is not a script: the JSON cannot be read")) from wrong
    return from_json(data)


def from_json(data: Any) -> Script:
    """The script in plain data. Raises ScriptError with one clear line."""
    if not isinstance(data, dict) or "kyanoscript" not in data:
        raise ScriptError(tr('this is not a script: it needs {"kyanoscript": 1, "passes": [...]}'))
    _check_version(data["kyanoscript"])
    if "recipe" in data:
        raise ScriptError(tr("this is a recipe, not a script: import it in the Recipes view"))
    _check_entries(data, _ENTRIES, "the script")
    told = Told(data.get("shared", []))
    script = _script(data, "", told)
    sheets = data.get("sheets", {})
    if not isinstance(sheets, dict):
        raise ScriptError(tr("sheets is {sheets}; it must be names with their sheets", sheets=show(sheets)))
    papers = tuple(
        (str(name), sheet_from_json(sheet, tr("sheet {name}", name=quoted(name)))) for name, sheet in sheets.items()
    )
    origin = _number(data, "origin", "")
    return replace(script, sheets=papers, origin=origin, states=_states(data.get("states", []), script, told))


def sheet_from_json(data: Any, where: str = "sheet") -> Sheet:
    """A sheet from plain data, of this version or an older one. Raises ScriptError."""
    if isinstance(data, dict):
        data = in_parts(data)
        plates = data.setdefault("plates", {})
        if isinstance(plates, dict):
            plates.setdefault("most_ink", _UNBOUNDED)
        unknown = next((name for name in data if name not in Sheet.model_fields), None)
        if unknown is not None:
            raise ScriptError(
                tr(
                    "{where}.{cut} is unknown{nearest}",
                    where=where,
                    cut=cut(str(unknown)),
                    nearest=nearest(str(unknown), HOME),
                )
            )
    return read(Sheet, data, where)


def _check_version(version: Any) -> None:
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ScriptError(
            tr(
                "kyanoscript is {version}; it must be the version of the script, 1…{version2}",
                version=show(version),
                version2=VERSION,
            )
        )
    if version > VERSION:
        raise ScriptError(
            tr(
                "the script was written by a newer Kyanoscript (version {version}); this one reads up to {version2}",
                version=version,
                version2=VERSION,
            )
        )


def _check_entries(data: dict[str, Any], known: tuple[str, ...], what: str) -> None:
    for key in data:
        if key not in known:
            raise ScriptError(
                tr("{what} has an unknown entry {key}{key2}", what=what, key=quoted(key), key2=nearest(key, known))
            )


def _states(listed: Any, before: Script, told: Told) -> tuple[State, ...]:
    if not isinstance(listed, list) or len(listed) > MOST_STATES:
        raise ScriptError(
            tr(
                "states is {listed}; it must be a list of at most {most_states} kept scripts",
                listed=show(listed),
                most_states=MOST_STATES,
            )
        )
    found: list[State] = []
    for k, entry in enumerate(listed, 1):
        found.append(_state(entry, k, before, told))
        before = found[-1].script
    if len({state.number for state in found}) < len(found):
        raise ScriptError(tr("two states have the same number; every state needs one of its own"))
    return tuple(found)


def _state(entry: Any, k: int, before: Script, told: Told) -> State:
    where = tr("state {k}", k=k)
    if not isinstance(entry, dict):
        raise ScriptError(
            tr(
                '{where} is {entry}; it must be like {{"name": "warmer", "passes": [...]}}',
                where=where,
                entry=show(entry),
            )
        )
    _check_entries(entry, _STATE, where)
    words = {name: entry.get(name, "") for name in ("name", "note", "kept")}
    for name, word in words.items():
        if not isinstance(word, str):
            raise ScriptError(tr("{where}: {name} is {word}; it must be text", where=where, name=name, word=show(word)))
    number, steps, origin = (_number(entry, name, f"{where}: ") for name in _NUMBERS)
    same = entry.get("as_before", [])
    if not isinstance(same, list) or not set(map(str, same)) <= {"frame", "develop", "stencils"}:
        raise ScriptError(
            tr("{where}: as_before is {same}; it must name frame, develop or stencils", where=where, same=show(same))
        )
    shared: dict[str, Any] = {name: getattr(before, name) for name in same}
    script = replace(
        _script(entry, f"{where}, ", told, before, dict(shared.get("stencils", ()))), **shared, origin=origin
    )
    return State(script, **words, number=number or k, steps=steps)


def _number(entry: dict[str, Any], name: str, where: str) -> int:
    value = entry.get(name, 0)
    most = _MOST_NUMBER if name != "steps" else 10**9
    if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value <= most:
        raise ScriptError(
            tr(
                "{where}{name} is {value}; it must be a whole number 0…{most}",
                where=where,
                name=name,
                value=show(value),
                most=most,
            )
        )
    return value


def _script(
    data: dict[str, Any],
    where: str,
    told: Told,
    before: Script | None = None,
    shared: dict[str, Stencil] | None = None,
) -> Script:
    """Passes, frame and stencils; ``where`` begins every message.

    A pass that is told by its identity alone is that of the script ``before``; ``shared``: named stencils from there.
    """
    listed = data.get("passes", [])
    if not isinstance(listed, list):
        raise ScriptError(
            tr("{where}passes is {listed}; it must be a list of passes", where=where, listed=show(listed))
        )
    _check_length(listed)
    frame = data.get("frame", {})
    if not isinstance(frame, dict):
        raise ScriptError(
            tr('{where}frame is {frame}; it must be like {{"ratio": "3:2"}}', where=where, frame=show(frame))
        )
    named = data.get("stencils", {})
    if not isinstance(named, dict):
        raise ScriptError(
            tr("{where}stencils is {named}; it must be names with their stencils", where=where, named=show(named))
        )
    stencils = tuple(
        (str(name), told.stencil(stencil, tr("{where}stencil {name}", where=where, name=quoted(name))))
        for name, stencil in named.items()
    )
    known = {step.id: step for step in before.passes} if before is not None else {}
    run = tuple(
        known[entry]
        if isinstance(entry, str) and entry in known
        else pass_from_json(entry, tr("{where}pass {k}", where=where, k=k + 1), told=told)
        for k, entry in enumerate(listed)
    )
    for k, step in enumerate(run):
        _check_names(step, tr("{where}pass {k}", where=where, k=k + 1), [*named, *(shared or ())])
    develop = data.get("develop", {})
    if not isinstance(develop, dict):
        raise ScriptError(
            tr('{where}develop is {develop}; it must be like {{"exposure": 0.5}}', where=where, develop=show(develop))
        )
    read_develop = read(Develop, develop, f"{where}develop")
    return Script(placed(run), read(Frame, frame, f"{where}frame"), stencils, develop=read_develop)


def _check_length(listed: list[Any]) -> None:
    """Before anything is read closely: a script that is too long is refused at once, however it is nested."""
    total, found, rest = 0, 0, [(listed, 0)]
    while rest:
        run, depth = rest.pop()
        total += len(run)
        for entry in run if total <= _MOST_IN_ALL else ():
            if isinstance(entry, dict):
                found += entry.get("on") is not False and entry.get("strength") != 0
                inner = entry.get("run")
                if isinstance(inner, list) and depth < _DEEP:
                    rest.append((inner, depth + 1))
    if found > MOST_PASSES or total > _MOST_IN_ALL:
        over = (
            tr("{found} passes that act", found=found)
            if total <= _MOST_IN_ALL
            else tr("more than {most_in_all} passes", most_in_all=_MOST_IN_ALL)
        )
        raise ScriptError(
            tr(
                "the script has {over}; it may have {most_passes} that act, those of plates counted",
                over=over,
                most_passes=MOST_PASSES,
            )
        )


def pass_from_json(data: Any, where: str = "pass 1", depth: int = 0, told: Told | None = None) -> Pass:
    """One pass from plain data; ``where`` says which one in a message. Raises ScriptError."""
    if not isinstance(data, dict) or not isinstance(data.get("pass"), str):
        raise ScriptError(
            tr('{where} is {data}; it must be like {{"pass": "levels", ...}}', where=where, data=show(data))
        )
    named: str = data["pass"]
    kind: str = RENAMES.get((named, ""), named)
    model = passes.named(kind)
    if model is None:
        elsewhere = passes.missing(kind)
        if elsewhere:
            raise ScriptError(tr("{where} is {kind}, {elsewhere}", where=where, kind=quoted(kind), elsewhere=elsewhere))
        raise ScriptError(
            tr(
                "{where} is {kind}, which is unknown{kind2}",
                where=where,
                kind=quoted(kind),
                kind2=nearest(kind, passes.load_all()),
            )
        )
    values: dict[str, Any] = {
        RENAMES.get((kind, str(name)), str(name)): value for name, value in data.items() if name not in ("pass", "id")
    }
    if "of" in model.model_fields:
        values.setdefault("of", 1)
    given: dict[str, Any] = {}
    if "id" in data:
        identity = data["id"]
        if not (isinstance(identity, str) and identity.isalnum() and len(identity) <= _IDENTITY):
            raise ScriptError(
                tr(
                    "{where}: {kind}.id is {identity}; it must be letters and digits",
                    where=where,
                    kind=kind,
                    identity=show(identity),
                )
            )
        given["id"] = identity
    if "run" in values and "run" in model.params():
        listed = values.pop("run")
        if not isinstance(listed, list) or depth >= _DEEP:
            legal = model.params()["run"].range_text() + (
                tr(", at most {deep} deep", deep=_DEEP) if depth >= _DEEP else ""
            )
            raise ScriptError(
                tr(
                    "{where}: {kind}.run is {listed}; it must be {legal}",
                    where=where,
                    kind=kind,
                    listed=show(listed),
                    legal=legal,
                )
            )
        given["run"] = tuple(
            pass_from_json(entry, tr("{where}, pass {k} of its run", where=where, k=k + 1), depth + 1, told)
            for k, entry in enumerate(listed)
        )
    step = read(model, values, where, kind) if told is None else told.declared(model, values, where, kind)
    return step.model_copy(update=given) if given else step


def _check_names(step: Pass, where: str, names: list[str]) -> None:
    """Every stencil that is used by its name is there."""
    if isinstance(step.stencil, str) and step.stencil not in names:
        near = nearest(step.stencil, names) if names else "; the script has none"
        raise ScriptError(
            tr(
                "{where}: {kind}.stencil is {stencil}, which the script does not have{near}",
                where=where,
                kind=step.kind,
                stencil=quoted(step.stencil),
                near=near,
            )
        )
    for inner in step.run:
        _check_names(inner, where, names)
