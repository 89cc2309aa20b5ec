"""``tint``: a gray scan coloured without a window, by what its parts are most likely to have been."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from kyanoscript.files.base.errors import FileError
from kyanoscript.terminal import OK, complain, spooled
from kyanoscript.translation import tr

if TYPE_CHECKING:
    from kyanoscript.core.passes.toning.hand_tint import HandTint
    from kyanoscript.core.tint.dabs import Dab
    from kyanoscript.files.photos.photo import Photo

BEST, SUREST = "best", "surest"


def tint(options: argparse.Namespace) -> int:
    """Write the coloured picture, or the script of it, and say what was taken. Raises FileError."""
    from kyanoscript.core.script import Script
    from kyanoscript.files.base.progress import Progress
    from kyanoscript.files.kept.scriptfile import SUFFIX, PhotoRef, write_script
    from kyanoscript.files.photos.photo import open_photo
    from kyanoscript.files.photos.pictures import Pictures
    from kyanoscript.files.prints.formats import format_of
    from kyanoscript.files.prints.out import Out, write
    from kyanoscript.files.prints.settings import Settings
    from kyanoscript.files.prints.whole import WholePrint

    photo = open_photo(spooled(options.photo, "photo"), hold=False)
    target = options.output or Path(f"{photo.path.stem}-tinted.tif")
    if options.output is None and target.exists():
        raise FileError(target, "it is there already", "Say with -o where the picture is to go")
    to_script = target.suffix.lower() in (SUFFIX, ".json")
    if not to_script:
        format_of(target)  # before anything is looked at, which takes seconds
    told = _Told(sys.stderr.isatty() and not options.json)
    step = laid(photo, options.take, told.looking)
    script = Script((step,))
    if to_script:
        original = photo.original
        digest = original.digest() if original else ""
        write_script(target, script, PhotoRef(photo.path.absolute(), digest, *photo.size, photo.page))
    else:
        out = Out(photo, script, Pictures(photo.path, None), target, WholePrint(), Settings())
        write(out, Progress(told.printing))
    parts = _parts(step.dabs)
    if options.json:
        print(json.dumps({"photo": str(options.photo), "file": str(target), "parts": parts}, indent=2))
        return OK
    for part in parts:
        how = tr("{part:.0f} % sure", part=part["sure"]) if part["sure"] else "the likeliest of those offered"
        taken = f"{part['tint']}, {how}" if part["tint"] else "stays gray"
        print(f"{part['name']}: {taken}")
    if not parts:
        complain(tr("{name}: nothing was found to be tinted", name=photo.path.name))
    print(tr("{target}: written", target=target))
    return OK


class _Told:
    """How far it is, on a terminal."""

    def __init__(self, shown: bool) -> None:
        self.shown = shown

    def looking(self, what: str, share: float) -> None:
        """Before the picture is printed."""
        self._say(f"{what} {share:4.0%}", share >= 1)

    def printing(self, share: float) -> None:
        """Of the picture."""
        self._say(tr("Printing {share:4.0%}", share=share), share >= 1)

    def _say(self, text: str, done: bool) -> None:
        if self.shown:
            print(f"\r{text}", end="\n" if done else "", file=sys.stderr, flush=True)


def laid(photo: Photo, take: str, watch: Any) -> HandTint:
    """Hand-tint with what was found, every part with its likeliest tint, or only those that are read surely."""
    from kyanoscript.core.passes import load_all
    from kyanoscript.core.passes.toning.hand_tint import HandTint, scene_of
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import Script
    from kyanoscript.core.tint import waiting

    kind = cast("type[HandTint]", load_all()[HandTint.kind])
    renderer = Renderer(photo.source, Script((kind(auto=True),)), watch=watch)
    step = cast("HandTint", renderer.settled(0))
    if take == SUREST:
        return step
    scene = renderer.found(0, "scene", lambda planes: scene_of(planes, renderer.space))
    dabs = step.dabs
    for name in waiting.waiting(dabs):
        first = next(dab for dab in dabs if dab.name == name)
        offered = waiting.followed(scene, dabs, renderer.framing).tints.get(name) or first.tints.split()
        tints = {"tints": " ".join(offered)}
        dabs = tuple(dab.model_copy(update=tints) if dab.name == name else dab for dab in dabs)
        dabs = waiting.given(dabs, name, offered[0])
    return step.model_copy(update={"dabs": dabs})


def _parts(dabs: tuple[Dab, ...]) -> list[dict[str, Any]]:
    """Each part once, with the tint that it has, if any."""
    first: dict[str, Dab] = {}
    for dab in dabs:
        first.setdefault(dab.name, dab)
    return [
        {
            "name": name, "tint": "" if dab.offered else dab.colour, "sure": dab.sure if dab.guess else 0.0,
            "offered": dab.tints.split(),
        }
        for name, dab in first.items()
    ]  # fmt: skip
