"""``passes``, ``recipes`` and ``check``: what there is, and whether a script makes sense."""

from __future__ import annotations

import argparse
import json
import math
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from kyanoscript.core import finding
from kyanoscript.core import passes as known_passes
from kyanoscript.core.passes.base import COMMON
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script import Script, nearest, numeral, to_json
from kyanoscript.core.script.differ import differ, same_print
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.recipes import Recipe, find
from kyanoscript.files.kept.scriptfile import read_script, state_named
from kyanoscript.terminal import OK, WRONG, complain, spooled
from kyanoscript.translation import tr, trn


def cookbook() -> Sequence[Recipe]:
    """Every recipe; files in one's own folder that are none are named on stderr."""
    found = Cookbook().read()
    for line in found.broken:
        complain(tr("left out: {line}", line=line))
    return found.recipes


def passes(options: argparse.Namespace) -> int:
    """Every pass with its parameters, what all of them have told once."""
    known = known_passes.load_all()
    for left in known_passes.load_others():
        complain(tr("left out: {line}", line=str(left)))
    if options.find is not None:
        return _find(options.find, options.json)
    if options.name is not None and options.name not in known:
        return complain(
            tr("there is no pass {name}{name2}", name=quoted(options.name), name2=nearest(options.name, known))
        )
    chosen = {k: m for k, m in known.items() if options.name in (None, k)}
    if options.json:
        print(json.dumps([_described(model) for model in chosen.values()], indent=2))
        return OK
    if options.name is None:
        print(tr("every pass has"))
        some = next(iter(known.values()))
        for name in COMMON:
            _tell(some, name)
    for model in chosen.values():
        print(f"{model.kind}  ({model.stage}) {model.about}")
        for name in model.params():
            # Of what every pass has, only what is otherwise here than in the list above.
            default = model.model_fields[name].default
            if options.name is not None or name not in COMMON or default != some.model_fields[name].default:
                _tell(model, name)
        if model.starts:
            print(tr("  starts: {starts}", starts="; ".join(model.starts)))
        print(tr("  when to use it: {use}", use=model.use))
        print(tr("  what goes wrong: {beware}", beware=model.beware))
    return OK


def _find(words: str, as_json: bool) -> int:
    """Passes, their starts and recipes by a word, the nearest first."""
    things = finding.passes_and_starts()
    things += [finding.recipe(r.word, r.name, r.about, r.group) for r in cookbook()]
    found = finding.found(words, things)
    if as_json:
        print(
            json.dumps(
                [{"is": t.address, "name": t.name, "about": t.about} for t in found], indent=2, ensure_ascii=False
            )
        )
        return OK
    if not found:
        return complain(tr("nothing is called {words}, and nothing is for it", words=quoted(words)))
    for thing in found:
        print(f"{thing.address}  ({thing.about})" if not thing.of else f"{thing.address}")
    return OK


def info(options: argparse.Namespace) -> int:
    """What a photograph is, and what was done to it on opening."""
    from kyanoscript.files.photos.photo import open_photo

    photo = open_photo(spooled(options.photo, "photo"), hold=False)
    facts = photo.facts
    bits, _, rest = photo.kind.partition("-bit ")
    done = (
        [tr("Turned upright (orientation {orientation})", orientation=photo.orientation)]
        if photo.orientation in range(2, 9)
        else []
    )
    if options.json:
        found = {
            "photo": str(options.photo), "width": photo.width, "height": photo.height, "kind": photo.kind,
            "bits": int(bits), "float": rest.startswith("float "), "channels": photo.source.channels,
            "profile": facts.profile or None, "space": photo.source.space.name, "raw": photo.raw,
            "camera": facts.camera or None,
            "lens": facts.lens or None, "date": facts.date or None, "ppi": photo.ppi, "pages": facts.pages,
            "orientation": photo.orientation, "on opening": [*done, *photo.notes],
        }  # fmt: skip
        print(json.dumps(found, indent=2, ensure_ascii=False))
        return OK
    rows = {
        "pixels": tr(
            "{width} × {height}, {width2:.1f} megapixels",
            width=photo.width,
            height=photo.height,
            width2=photo.width * photo.height / 1000000.0,
        ),
        "kind": photo.kind,
        "colours": photo.colours,
        "camera": facts.camera,
        "lens": facts.lens,
        "date": facts.date,
        "pages": str(facts.pages) if facts.pages > 1 else "",
        "resolution": tr("{ppi:g} pixels per inch", ppi=photo.ppi) if photo.ppi else "",
        "on opening": ". ".join([*done, *photo.notes]),
    }
    for name, said in rows.items():
        if said:
            print(f"{name:<12}{said}")
    return OK


_LOOKED_AT = 1.0  # megapixels that people are looked for in


def look(options: argparse.Namespace) -> int:
    """Who is in a photograph, and what of them; or its regions, with the tints that are offered."""
    from kyanoscript.core import colour
    from kyanoscript.core.people import people
    from kyanoscript.core.picture import Rect, read, size_at
    from kyanoscript.core.tint.field import lightness_of
    from kyanoscript.files.photos.photo import open_photo

    source = open_photo(spooled(options.photo, "photo"), hold=False).source
    scale = min(1.0, math.sqrt(_LOOKED_AT * 1e6 / (source.width * source.height)))
    planes = read(source, Rect(0, 0, *size_at(source, scale)), scale)
    gray = np.ascontiguousarray(colour.gray_of(planes, source.space)[0], np.float32)
    if options.offers:
        return _offers(gray, options.json)
    found = people(lightness_of(gray))
    if options.json:
        rows = [
            {
                "face": {"x": round(100 * p.x, 2), "y": round(100 * p.y, 2), "size": round(100 * p.size, 2)},
                "sure": p.sure,
                "parts": {
                    part.name: {
                        "sure": part.sure,
                        "outlines": [
                            [[round(100 * v, 2) for v in corner] for corner in line] for line in part.outlines
                        ],
                    }
                    for part in p.parts
                },
            }
            for p in found
        ]
        print(json.dumps(rows, indent=None if len(rows) > 4 else 2))
        return OK
    for k, p in enumerate(found, 1):
        parts = ", ".join(part.name for part in p.parts)
        print(
            tr(
                "person {k}: face at {x:.0f} %, {y:.0f} %, {sure:.0f} % sure; {parts}",
                k=k,
                x=100 * p.x,
                y=100 * p.y,
                sure=p.sure,
                parts=parts,
            )
        )
    if not found:
        print("nobody")
    return OK


def _offers(gray: Any, as_json: bool) -> int:
    """What a scene is made of but for people, the largest first."""
    from kyanoscript.core.passes.toning.hand_tint import covered
    from kyanoscript.core.people import people
    from kyanoscript.core.tint.field import lightness_of
    from kyanoscript.core.tint.offers import looked_over, regions
    from kyanoscript.core.tint.reading import read_at

    scene = looked_over(lightness_of(read_at(gray)))
    found = regions(scene, covered(people(lightness_of(gray)), scene.lightness.shape))
    if as_json:
        rows = [
            {
                "name": one.name, "x": round(100 * one.x, 2), "y": round(100 * one.y, 2),
                "share": round(100 * one.share, 2), "read": one.sure, "tints": list(one.tints),
                "sure": list(one.likely),
                "outlines": [
                    [[round(100 * min(max(v, 0.0), 1.0), 2) for v in corner] for corner in line.corners]
                    for line in one.outlines
                ],
            }
            for one in found
        ]  # fmt: skip
        print(json.dumps(rows, indent=None if len(rows) > 4 else 2))
        return OK
    for one in found:
        tints = ", ".join(f"{tint} {sure:.0f} %" for tint, sure in zip(one.tints, one.likely, strict=True))
        print(
            tr(
                "{name}, {share:.0f} %, at {x:.0f} %, {y:.0f} %: {tints}",
                name=one.name,
                share=100 * one.share,
                x=100 * one.x,
                y=100 * one.y,
                tints=tints,
            )
        )
    return OK


def _tell(model: Any, name: str) -> None:
    """One line about a parameter."""
    spec = model.params()[name]
    group = f"{spec.group}: " if spec.group else ""
    value = tr(
        "{spec:<34} default {default:<12}", spec=spec.range_text(), default=_plain(model.model_fields[name].default)
    )
    print(f"  {name:<18}{value} {group}{spec.help}".rstrip())


def recipes(options: argparse.Namespace) -> int:
    """Every recipe, or what one does."""
    every = cookbook()
    chosen = [find(options.name, every)] if options.name else every
    if options.json:
        rows = [
            {
                "name": recipe.word,
                "title": recipe.name,
                "group": recipe.group,
                "description": recipe.about,
                "try": recipe.tries,
                "passes": to_json(recipe.script)["passes"] if options.name else [p.kind for p in recipe.script.passes],
            }
            for recipe in chosen
        ]
        print(json.dumps(rows[0] if options.name else rows, indent=2))
        return OK
    for recipe in chosen:
        if options.name:
            print(f"{recipe.word}  ({recipe.group}) {recipe.name}: {recipe.about}")
            print(tr("  passes: {join}", join=", ".join(p.kind for p in recipe.script.passes)))
            print(tr("  strengths worth trying: {tries}", tries=", ".join(recipe.tries)))
        else:
            print(f"{recipe.word:<16}{recipe.group:<9}{recipe.name}: {recipe.about}")
    return OK


def states(options: argparse.Namespace) -> int:
    """The states of a script file."""
    script = read_script(spooled(options.script, "script")).script
    if options.json:
        rows = [
            {
                "number": state.number, "numeral": numeral(state.number), "name": state.name, "note": state.note,
                "kept": state.kept or None, "steps": state.steps, "made from": state.script.origin or None,
                "passes": [step.kind for step in state.script.passes],
            }
            for state in script.states
        ]  # fmt: skip
        print(json.dumps(rows, indent=2, ensure_ascii=False))
        return OK
    for state in script.states:
        origin = numeral(state.script.origin) if state.script.origin else "the photo"
        steps = trn(
            "{steps} step from {origin}", "{steps} steps from {origin}", state.steps, steps=state.steps, origin=origin
        )
        told = "  ".join(filter(None, (state.kept.replace("T", " "), steps, state.note.replace("\n", "; "))))
        print(f"{numeral(state.number):<6}{state.name:<28}{told}".rstrip())
    if not script.states:
        print(tr("{script}: no states", script=options.script))
    return OK


def differ_in_words(options: argparse.Namespace) -> int:
    """How one script differs from another."""
    one, other = _side(options.one), _side(options.other)
    found, equal = differ(one, other), same_print(one, other)
    if options.json:
        rows = [{"title": difference.title, "words": difference.words} for difference in found]
        print(json.dumps({"differences": rows, "equal prints": equal}, indent=2, ensure_ascii=False))
        return OK
    for difference in found:
        print(f"{difference.title}: {difference.words}")
    if equal:
        print(tr("the prints are equal") if found else tr("no difference"))
    return OK


def _side(word: str) -> Script:
    """A script file, a state in one, or a recipe."""
    path = Path(word)
    file, _ = state_named(path)
    if file.exists() or file.suffix.lower() in (".kyano", ".json") or "/" in word or word == "-":
        script = read_script(spooled(path, "script")).script
        return replace(script, sheets=(), states=(), origin=0)
    return find(word, cookbook()).script


def _plain(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False).strip('"')


def _described(model: Any) -> dict[str, Any]:
    """Everything the declarations say of a pass."""
    parameters = []
    for name, spec in model.params().items():
        entry: dict[str, Any] = {"name": name, "kind": spec.kind, "label": spec.label, "help": spec.help}
        entry |= spec.described()
        if spec.group:
            entry["group"] = spec.group
        parameters.append({**entry, "range": spec.range_text(), "default": model.model_fields[name].default})
    return {
        "name": model.kind,
        "label": model.label,
        "stage": model.stage,
        "about": model.about,
        "parameters": parameters,
        "starts": model.starts,
        "when to use it": model.use,
        "what goes wrong": model.beware,
    }


def check(options: argparse.Namespace) -> int:
    """Whether scripts are valid; all are looked at, whatever is wrong with the first."""
    rows, status = [], OK
    for path in options.scripts:
        try:
            script = read_script(spooled(path, "script")).script
        except FileError as error:
            status = WRONG
            rows.append({"script": str(path), "valid": False, "error": str(error)})
            if not options.json:
                complain(str(error))
            continue
        count = len(script.passes)
        rows.append({"script": str(path), "valid": True, "passes": [recipe.kind for recipe in script.passes]})
        if not (options.json or options.quiet):
            print(trn("{path}: valid, {count} pass", "{path}: valid, {count} passes", count, path=path, count=count))
    if options.json:
        print(json.dumps(rows if len(rows) > 1 else rows[0], indent=2))
    return status
