"""``after``: the run that makes a photograph look like an earlier print."""

from __future__ import annotations

import argparse
import json
from typing import Any

from kyanoscript.core.after.following import Followed
from kyanoscript.core.quoting import cut
from kyanoscript.core.script import Script, to_json
from kyanoscript.files.kept.after import followed
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.terminal import OK, complain, spooled
from kyanoscript.translation import spoken, tr


def after(options: argparse.Namespace) -> int:
    """Say what was found, and write the script. Raises FileError."""
    if options.output is not None and options.output.suffix.lower() not in (".json", ".kyano"):
        return complain(tr("{name} is no script; name a .json or .kyano file with -o", name=cut(options.output.name)))
    photo = open_photo(spooled(options.photo, "photo"))
    print_ = open_photo(options.print)
    found = followed(print_.source, photo.source, Script(), Cookbook().read().recipes)
    chosen = dict.fromkeys(options.take, (True, 100.0)) | dict.fromkeys(options.leave, (False, 100.0))
    script, taken = found.script(Script(), chosen), {one.key for one in found.taken(chosen)}
    if options.output is not None:
        original = photo.original
        digest = original.digest() if original else ""
        write_script(options.output, script, PhotoRef(photo.path.absolute(), digest, *photo.size, photo.page))
    if options.json:
        print(json.dumps(_plain(found, script, taken, options), indent=2))
        return OK
    print(tr("The same scene: laid over one another") if found.same else tr("Another scene"))
    for one in found.found:
        mark = "" if one.key in taken else tr(" (offered)")
        print(f"{spoken(one.title)}{mark}: {spoken(one.words)}")
    for words in found.left:
        print(spoken(words))
    if not script.passes:
        print(tr("Nothing is proposed"))
    if options.output is not None:
        print(tr("{target}: written", target=options.output))
    return OK


def _plain(found: Followed, script: Script, taken: set[str], options: argparse.Namespace) -> dict[str, Any]:
    return {
        "print": str(options.print),
        "photo": str(options.photo),
        "same_scene": found.same,
        "found": [
            {
                "what": one.key,
                "words": one.words,
                "taken": one.key in taken,
                "passes": [step.kind for step in one.steps],
            }
            for one in found.found
        ],
        "not_matched": list(found.left),
        "ladder": [
            [round(float(v), 2) for v in row]
            for row in zip(found.ladder.light, found.ladder.a, found.ladder.b, strict=True)
        ],
        "script": to_json(script, identities=False),
    }
