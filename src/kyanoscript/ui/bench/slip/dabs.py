"""The part of a pass's page for dabs: the one that is worked on, what is offered for a part, and all parts."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.tints import TINTS, group_for
from kyanoscript.core.tint.waiting import of_somebody
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.slip.brush import Brush
from kyanoscript.ui.bench.slip.offers import Offers, Parts
from kyanoscript.ui.bench.slip.tints import Tints
from kyanoscript.ui.easel.tools.dab import DabTool
from kyanoscript.ui.fields.fields import Fields
from kyanoscript.ui.fields.target import SlipPage
from kyanoscript.ui.widgets import furniture


def add_dabs(page: SlipPage, tool: DabTool) -> None:
    """The dab that is worked on, or the next: its tint, how it acts, its size; and all of them."""
    fields = Fields(page, Brush(tool))
    params = Dab.params()
    row = QHBoxLayout()
    words = furniture.elided("")
    row.addWidget(words, 1)
    seen = furniture.word("Shown", "Whether every dab shows on the picture", checkable=True)
    seen.clicked.connect(tool.show_all)
    gone = furniture.word("Take away", "Take this dab away  (Delete)", act=lambda: tool.remove())
    for word in (seen, gone):
        row.addWidget(word)
    page.column.addLayout(row)

    six, parts = Offers(), Parts()
    tints = Tints(tool.group)
    words_of_part = _words_of_part(tool)
    told: list[Dab | None] = [None]

    def show(_: Any) -> None:
        dab = tool.dab
        words.setText(spoken(_of_dab(dab, tool.chosen, len(tool.dabs), tool.waits)))
        if dab is not None and told[0] is not dab and (group := group_for(dab.name)):
            tints.group.setCurrentText(group)  # what such a thing can have is one press away
        if dab is None or told[0] is None or told[0].name != dab.name:
            words_of_part["another"].setChecked(False)
        told[0] = dab
        offered = tool.tints
        six.show_tints(offered, dab.colour if dab is not None and not dab.offered else "")
        six.setVisible(bool(offered))
        region = dab is not None and dab.region
        more = dab is not None and region and not of_somebody(dab)  # of hair and cloth there are no others
        shown = {"rest": tool.waits > 0, "another": bool(offered), "more": more}
        for name, word in words_of_part.items():
            word.setVisible(shown.get(name, region))
        words_of_part["divide"].setChecked(tool.mode == "divide")
        words_of_part["join"].setChecked(tool.mode == "join")
        own = not offered or words_of_part["another"].isChecked()
        tints.setVisible(own)
        page.rows["colour"].setVisible(own)
        for name in ("acts", "size"):
            page.rows[name].setVisible(not offered)
        parts.show_parts(tool.dabs, dab.name if dab is not None else "")
        parts.setVisible(parts.count() > 0)
        seen.setChecked(tool.shown)
        gone.setEnabled(tool.dab is not None)

    words_of_part["another"].toggled.connect(lambda _: page.show_values())
    six.chosen.connect(tool.take)
    six.pointed.connect(tool.try_tint)
    parts.wanted.connect(tool.show_named)
    page.editors["dabs shown"], page.editors["dab away"] = seen, gone
    page.editors |= {"offers": six, "parts": parts, **{f"part {name}": w for name, w in words_of_part.items()}}
    page.column.addWidget(six)
    for pair in (("more", "another"), ("divide", "join"), ("rest", "")):
        row = QHBoxLayout()
        row.addWidget(words_of_part[pair[0]])
        row.addStretch()
        if pair[1]:
            row.addWidget(words_of_part[pair[1]])
        page.column.addLayout(row)
    tints.group.currentIndexChanged.connect(lambda at: setattr(tool, "group", tints.group.itemData(at)))
    tints.group.textActivated.connect(lambda name: tool.set_brush(colour=TINTS[name][0][1]))  # its first tint
    tints.chosen.connect(lambda ink: tool.set_brush(colour=ink))
    tints.pointed.connect(tool.try_tint)
    page.editors["tints"] = tints
    page.column.addWidget(tints)
    fields.add({name: params[name] for name in ("colour", "acts", "size")}, tool.brush)
    page.editors["colour"].hide()  # the plane is folded away: the tray is nearer
    page.column.addWidget(parts)
    fields.follow(show)


def _words_of_part(tool: DabTool) -> dict[str, QPushButton]:
    """What can be done with a part of the scene, besides giving it one of its tints."""
    return {
        "more": furniture.word("Six more", "Six other tints; after the last come the first again", act=tool.more),
        "another": furniture.word("Another tint…", "One that is not offered", checkable=True),
        "divide": furniture.word(
            "Two things…",
            "This is not one thing: draw across it where one ends and another begins",
            act=lambda: tool.begin_mode("divide"),
            checkable=True,
        ),
        "join": furniture.word(
            "One with…",
            "It is one thing with another: press on that",
            act=lambda: tool.begin_mode("join"),
            checkable=True,
        ),
        "rest": furniture.word(
            "Take the likeliest of the rest", "Whatever still waits has its first tint", act=tool.take_the_rest
        ),
    }


def _of_dab(dab: Dab | None, at: int, count: int, offered: int) -> str:
    """Which dab is worked on."""
    if dab is None:
        return (
            tr("{offered} wait for a tint", offered=offered) if offered else tr("Next dab, after {count}", count=count)
        )
    what = f"{dab.name[:1].upper()}{dab.name[1:]}" if dab.name else tr("Dab {at} of {count}", at=at + 1, count=count)
    return tr("{what}: choose a tint", what=what) if dab.offered else what
