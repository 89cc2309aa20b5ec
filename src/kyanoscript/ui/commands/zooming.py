"""The keys of looking, for a view whose middle is zoomed as the easel is."""

from __future__ import annotations

from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers, Held
from kyanoscript.ui.easel.prints import WHEEL, Prints
from kyanoscript.ui.widgets import theme


def zooming(context: Context, prints: Prints) -> Handlers:
    """Whole, actual pixels, nearer and farther, the next mat, dragging."""

    def next_mat() -> None:
        easel, names = context.easel, list(theme.MATS)
        easel.mat = prints.mat = names[(names.index(easel.mat) + 1) % len(names)]
        context.foot.say(tr("Mat: {mat}", mat=easel.mat))
        prints.update()

    return {
        commands.WHOLE: prints.show_whole,
        commands.ACTUAL: prints.show_actual,
        commands.NEARER: lambda: prints.set_zoom(prints.magnification() * WHEEL),
        commands.FARTHER: lambda: prints.set_zoom(prints.magnification() / WHEEL),
        commands.NEXT_MAT: next_mat,
        commands.HOLD_SPACE: Held(lambda: prints.hold_space(True), lambda: prints.hold_space(False)),
    }
