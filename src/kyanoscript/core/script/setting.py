"""One value of a script, told in words: ``levels.gamma=1.2``."""

from __future__ import annotations

import json
from dataclasses import replace

from kyanoscript.core import passes
from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import ScriptError, nearest, read
from kyanoscript.core.script.data import Script
from kyanoscript.core.script.json import RENAMES, pass_from_json, pass_to_json


def with_value(script: Script, words: str) -> Script:
    """The script with one value changed, told as ``pass.name=value``.

    ``levels.gamma=1.2`` means the first levels, ``levels.2.gamma=1.2`` the second, ``frame.tilt=3`` the frame,
    ``develop.exposure=0.5`` the development of a raw; the value is JSON, or a plain word. Raises ScriptError.
    """
    place, equals, written = words.partition("=")
    parts = place.strip().split(".")
    if not equals or len(parts) not in (2, 3) or (len(parts) == 3 and not parts[1].isdigit()):
        raise ScriptError(f"{quoted(words)} cannot be set; write it as levels.gamma=1.2 or levels.2.gamma=1.2")
    try:
        value = json.loads(written)
    except (ValueError, RecursionError):
        value = written.strip()
    kind, name = parts[0], parts[-1]
    if kind == "frame":
        return replace(script, frame=read(Frame, {**script.frame.model_dump(mode="json"), name: value}, "frame"))
    if kind == "develop":
        return replace(script, develop=read(Develop, {**script.develop.model_dump(mode="json"), name: value}, kind))
    known = passes.load_all()
    kind = RENAMES.get((kind, ""), kind)
    if kind not in known:
        raise ScriptError(
            f"{quoted(words)}: there is no pass {quoted(kind)}{nearest(kind, [*known, 'frame', 'develop'])}"
        )
    which = int(parts[1]) if len(parts) == 3 else 1
    found = [k for k, step in enumerate(script.passes) if step.kind == kind]
    if not 1 <= which <= len(found):
        raise ScriptError(f"{quoted(words)}: the script has {len(found) or 'no'} {kind}")
    k = found[which - 1]
    changed = pass_from_json({**pass_to_json(script.passes[k]), name: value}, f"pass {k + 1}")
    return script.with_pass(k, changed)
