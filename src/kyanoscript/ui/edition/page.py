"""The right side of the Edition view: through what, onto what, by which names, where to; and what is done with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QWidget

from kyanoscript.core import machine
from kyanoscript.core.params import Number
from kyanoscript.files.editions.edition import Edition
from kyanoscript.files.editions.names import FIELDS, Pattern
from kyanoscript.files.editions.plan import MOST_COPIES, numbered
from kyanoscript.files.editions.run import USUAL, jobs_for
from kyanoscript.files.prints.formats import FORMATS
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.edition.series import State, Tile
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.quiet import show_checked
from kyanoscript.ui.widgets.slider import ValueSlider

_KINDS = tuple(
    (words, format.endings[0][1:], bits, format.page) for format in FORMATS.values() for words, bits in format.choices
)
_COPIES = Number(
    label="Copies", help="Numbered prints of the one photograph", low=1, high=MOST_COPIES, ratio=True, whole=True
)
_ALONE = "the print alone"
_THERE = ("done again if changed", "stays as it is, whatever it is")
_CLUSTER = "a cluster…"


@dataclass(frozen=True)
class Offer:
    """Something that can be chosen in a list."""

    words: str
    value: Any


class EditionPage(BuiltPage):
    """Built once; what means nothing now is not there."""

    labels = 76

    changed = Signal(str, dict)  # what is done, in words, and the values
    took = Signal(object)  # the value of what was chosen for a script
    laid = Signal(object)  # of a sheet
    wants_cluster = Signal()

    def __init__(self) -> None:
        super().__init__("Edition")
        self.lists: dict[str, QComboBox] = {}
        self.lines: dict[str, QLineEdit] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.rows: dict[str, QWidget] = {}
        self._offers: dict[str, Sequence[Offer]] = {}
        self._edition = Edition()
        self._example: Callable[[], tuple[Path | None, dict[str, str | int]]] = lambda: (None, {})
        self.begin(spacing=5)
        self._head()
        self._out()
        self._alike()
        self._numbered()
        self._done_by()
        self._chosen()
        self.column.addStretch()
        self.end()

    # Building

    def _head(self) -> None:
        self.add(furniture.title("Edition"))
        self.about = furniture.wrapped("")
        self.add(self.about)
        self.rule(2)
        self._list("script", "Script", "What every photograph is printed through", self.took.emit)
        self.script_words = furniture.wrapped("")
        self.add(self.script_words)
        self._tick("framed", "With its frame", "The crop and the turning of the script, for every photograph")

    def _out(self) -> None:
        self._list("onto", "Onto", "The print alone, or each on a sheet of what is on the bench", self.laid.emit)
        self._tick("crop", "Cut off what reaches beyond the paper", "Else a print that is too large for it fails")
        more = self.word("more", "More…", "Packing, colours, size and notes of the files")
        self._list("as", "As", "The kind of file", self._as, more)
        line = self._line(
            "pattern",
            "Named",
            tr("Fields: {join}", join=", ".join((f"{{{name}}} {what}" for name, what in FIELDS.items()))),
        )
        line.textChanged.connect(lambda _: self._show_example())
        self.example = furniture.elided("")
        self.add(self.example)
        self.into = furniture.word("", "The folder that prints go to; it is made if it is not there")
        furniture.pressed(self.into, lambda: self.acts["into"]())
        self.add(self._row("into", "Into", self.into, furniture.label("")))
        self._list("there", "If there", "What is done where a file of a print's name is there already", self._there)
        self.rule(2)

    def _alike(self) -> None:
        self.matched = furniture.elided("")
        match = self.word(
            "match",
            "Match to chosen",
            "Mean and spread of all tones as its: a Levels pass at each head; a proposal to look at",
        )
        unmatch = self.word("unmatch", "No match", "Every print as its photograph makes it")
        self.add(self._row("match", "Matched to", self.matched, match, unmatch))
        self.match_words = furniture.wrapped("")
        self.add(self.match_words)
        self.rule(2)

    def _numbered(self) -> None:
        self.copies = ValueSlider(_COPIES, 1)
        self.copies.moved.connect(
            lambda value: self.changed.emit(tr("{value} copies", value=round(value)), {"copies": round(value)})
        )
        self.add(self.copies)
        self.rows["copies"] = self.copies
        self._line("caption", "Caption", "Below each numbered print on its sheet; {n} is its number, {count} how many")
        self._tick("own_grain", "Grain of its own for each", "Every seed of chance one further on, print after print")
        self.numbered_rule = furniture.line()
        self.add(self.numbered_rule)

    def _done_by(self) -> None:
        self._list("by", "Done by", "Processes of this machine, or a cluster of Dask's", self._by)
        self.room = furniture.wrapped("")
        self.add(self.room)
        self.main("go", "Print the edition", "Everything that is not there yet  (Ctrl+E)")
        self.problem = furniture.wrapped("")
        self.add(self.problem)
        self.line(
            ("check", "Check what is there", "Read every print, and compare it with what was written"),
            ("record", "Record…", "Which were printed, and when"),
        )
        self.rule(2)

    def _chosen(self) -> None:
        self.name = furniture.elided_title("", 18)
        self.add(self.name)
        self.facts = furniture.wrapped("")
        self.add(self.facts)
        self.line(
            ("again", "Try it again", "Just this one"),
            ("out", "Leave it out", "It is not printed, and stays among the photographs  (X)"),
            ("off", "Take it off", "It is none of the edition's any more; its file stays  (Delete)"),
        )

    def _row(self, key: str, text: str, *widgets: QWidget) -> QWidget:
        self.rows[key] = made = self.row(text, *widgets)
        return made

    def _list(self, key: str, label: str, help: str, act: Callable[[Any], object], *beside: QWidget) -> None:
        box = self.lists[key] = shrinking(label)
        tip(box, help)
        box.activated.connect(lambda index: act(box.itemData(index)))
        self.add(self._row(key, label, box, *beside))

    def _line(self, key: str, label: str, help: str) -> QLineEdit:
        line = self.lines[key] = QLineEdit()
        line.setFont(theme.sans(13))
        line.setMaxLength(200)
        line.setAccessibleName(spoken(label))
        tip(line, help)
        line.editingFinished.connect(lambda: self._typed(key, label))
        self.add(self._row(key, label, line))
        return line

    def _tick(self, key: str, text: str, help: str) -> None:
        tick = self.ticks[key] = self.rows[key] = QCheckBox(spoken(text))
        tip(tick, help)
        tick.toggled.connect(lambda on: self.changed.emit(f"{text}: {'yes' if on else 'no'}", {key: on}))
        self.add(tick)

    # What was done

    def _typed(self, key: str, label: str) -> None:
        text = self.lines[key].text()
        if text != getattr(self._edition, key):
            self.changed.emit(f"{label} {text}", {key: text})

    def _as(self, kind: tuple[str, int]) -> None:
        ending, bits = kind
        words = next(words for words, *told in _KINDS if tuple(told[:2]) == kind)
        self.changed.emit(
            tr("As {words}", words=words), {"ending": ending, "settings": self._edition.settings.with_(bits=bits)}
        )

    def _there(self, leaves: bool) -> None:
        self.changed.emit(tr("What is there {there}", there=_THERE[leaves]), {"leaves": leaves})

    def _by(self, jobs: int | None) -> None:
        if jobs is None:
            self.wants_cluster.emit()
        else:
            self.changed.emit("Done by this machine", {"jobs": jobs, "cluster": ""})

    # Showing

    def show_edition(
        self,
        edition: Edition,
        scripts: Sequence[Offer],
        sheets: Sequence[Offer],
        example: Callable[[], tuple[Path | None, dict[str, str | int]]],
    ) -> None:
        """All of it but how it stands; ``example``: a photograph to make a name of, and what else is known of it."""
        self._edition, self._example = edition, example
        count = len(edition.included)
        alone = count == 1 or edition.copies > 1  # else nobody could take the number back
        self.about.setText(
            spoken("One script over many photographs" if count != 1 else "One photograph, printed once or more")
        )
        first = Offer(edition.whence, "") if edition.whence else Offer("choose one", "")
        self._fill("script", [first, *scripts], 0)
        self.script_words.setText(spoken(_script_words(edition)))
        self.script_words.setVisible(bool(edition.whence))
        has_frame = edition.asked.recipe is None and edition.asked.script.frame != type(edition.asked.script.frame)()
        self._show_tick("framed", edition.framed, has_frame)
        own = [Offer(tr("sheet {sheet_name}", sheet_name=edition.sheet_name), "")] if edition.sheet is not None else []
        self._fill("onto", [*own, Offer(_ALONE, None), *sheets], 0)
        self._show_tick("crop", edition.crop, edition.sheet is not None)
        kinds = [Offer(words, (ending, bits)) for words, ending, bits, page in _KINDS if edition.sheet or not page]
        format = next(format for format in FORMATS.values() if f".{edition.ending}" in format.endings)
        at = (edition.ending, edition.settings.bits_of(format))
        self._fill("as", kinds, next((k for k, kind in enumerate(kinds) if kind.value == at), 0))
        self._show_line("pattern", edition.pattern)
        self._show_example()
        self.into.setText(spoken(_elided(edition.folder) if edition.folder is not None else "Choose a folder…"))
        tip(self.into, str(edition.folder or "The folder that prints go to; it is made if it is not there"))
        self._fill("there", [Offer(words, k == 1) for k, words in enumerate(_THERE)], int(edition.leaves))
        self._show_match(edition)
        self.copies.set_value(edition.copies)
        self.copies.setVisible(alone)
        self._show_line("caption", edition.caption)
        self.rows["caption"].setVisible(alone and edition.copies > 1 and edition.sheet is not None)
        self._show_tick("own_grain", edition.own_grain, alone and edition.copies > 1)
        self.numbered_rule.setVisible(alone)
        self._show_by(edition)

    def show_run(self, running: bool, paused: bool, begun: bool, problem: str) -> None:
        """What the main word does now, and why it cannot."""
        word = self.words["go"]
        if running:
            text, help = ("Go on", "Begin the others, too") if paused else ("Pause", "What is begun comes to its end")
        else:
            text, help = "Go on" if begun else "Print the edition", "Everything that is not there yet  (Ctrl+E)"
        word.setText(spoken(text))
        tip(word, help)
        word.setEnabled(running or not problem)
        self.problem.setText(spoken(f"{problem[:1].upper()}{problem[1:]}" if problem and not running else ""))
        self.problem.setVisible(bool(self.problem.text()))
        for name in ("check", "record"):
            self.words[name].setEnabled(self._edition.folder is not None)

    def show_chosen(self, tile: Tile | None, count: int) -> None:
        """The one that is chosen; of several how many they are."""
        several = count > 1
        there = tile is not None
        if tile is None:
            self.name.setText("")
            self.facts.setText("")
        else:
            self.name.setText(spoken(tr("{count} photographs", count=count) if several else tile.entry.photo.name))
            tip(self.name, "" if several else str(tile.entry.photo))
            failed = tile.state == State.FAILED and not several
            self.facts.setText(spoken("" if several else _told(tile)))
            self.facts.setObjectName("warning" if failed else "quiet")
            self.facts.style().polish(self.facts)
            out = tile.state == State.OUT
            take, them = ("Take", " in") if out else ("Leave", " out"), "them" if several else "it"
            self.words["out"].setText(spoken(f"{take[0]} {them}{take[1]}"))
            self.words["off"].setText(spoken("Take them off" if several else "Take it off"))
        self.facts.setVisible(bool(self.facts.text()))
        self.name.setVisible(there)
        for name in ("out", "off"):
            self.words[name].setVisible(there)
        tried = there and not several and tile is not None and tile.state in (State.FAILED, State.CHANGED)
        self.words["again"].setVisible(tried)
        self.words["match"].setEnabled(there and not several)

    def _fill(self, key: str, offers: Sequence[Offer], at: int) -> None:
        box = self.lists[key]
        if self._offers.get(key) != offers:
            self._offers[key] = list(offers)
            box.clear()
            for offer in offers:
                box.addItem(spoken(offer.words), offer.value)
        box.setCurrentIndex(at)

    def _show_tick(self, key: str, on: bool, there: bool) -> None:
        show_checked(self.ticks[key], on)
        self.ticks[key].setVisible(there)

    def _show_line(self, key: str, text: str) -> None:
        if not self.lines[key].hasFocus() or not self.lines[key].isModified():
            self.lines[key].setText(spoken(text))

    def _show_example(self) -> None:
        photo, known = self._example()
        try:
            edition = self._edition
            names = Pattern(numbered(self.lines["pattern"].text(), edition.copies), edition.ending)
            text = names.names([photo], known)[0] if photo is not None else "as quay-1001.tif"
            wrong = False
        except ValueError as error:
            text, wrong = str(error), True
        self.example.setText(spoken(text))
        tip(self.example, text)
        self.example.setObjectName("warning" if wrong else "quiet")
        self.example.style().polish(self.example)

    def _show_match(self, edition: Edition) -> None:
        there = edition.match is not None
        self.matched.setText(spoken(edition.match.stem if edition.match is not None else "nothing"))
        self.words["match"].setVisible(not there)
        self.words["unmatch"].setVisible(there)
        tones = edition.tones
        if edition.match is None:
            words = ""
        elif tones is None:
            words = "its tones are being looked at…"
        else:
            words = tr(
                "mean L* {mean:.0f}, spread {spread:.0f}; hold P: without it", mean=tones.mean, spread=tones.spread
            )
        self.match_words.setText(spoken(words))
        self.match_words.setVisible(bool(words))

    def _show_by(self, edition: Edition) -> None:
        processors = machine.processors()
        offers = [Offer("as many as have room", 0)]
        offers += [Offer(trn("{k} process", "{k} processes", k, k=k), k) for k in range(1, processors + 1)]
        cluster = [Offer(tr("cluster {cluster}", cluster=edition.cluster), -1)] if edition.cluster else []
        self._fill("by", [*cluster, *offers, Offer(_CLUSTER, None)], 0 if cluster else min(edition.jobs, processors))
        if edition.cluster:
            self.room.setText(spoken("Photographs go there, and prints come back"))
        else:
            free, count = machine.free() / (1 << 30), edition.jobs or jobs_for(USUAL)
            self.room.setText(
                tr(
                    "{count} of {processors} processors; {free:.1f} GB of memory free",
                    count=count,
                    processors=processors,
                    free=free,
                )
            )


def _script_words(edition: Edition) -> str:
    passes = sum(step.acts for step in edition.asked.script.passes)
    recipe = "" if edition.asked.recipe is None else ", suited to each print's shape"
    return trn(
        "{passes} pass{recipe}; automatic values from each",
        "{passes} passes{recipe}; automatic values from each",
        passes,
        passes=passes,
        recipe=recipe,
    )


def _told(tile: Tile) -> str:
    result = tile.result
    if tile.state == State.FAILED and result is not None:
        reason = result.reason.removeprefix(f"{tile.entry.photo.name}: ")
        return f"{reason[:1].upper()}{reason[1:]}"
    if tile.state == State.DONE and result is not None:
        notes = "".join(f"; {note}" for note in result.notes)
        return tr(
            "{file}, {width} × {height} px, {seconds:.1f} s{notes}",
            file=result.file,
            width=result.width,
            height=result.height,
            seconds=result.seconds,
            notes=notes,
        )
    if tile.state == State.CHANGED:
        return "It has changed since it was printed"
    return tile.words[:1].upper() + tile.words[1:]


def _elided(folder: Path) -> str:
    text = f"{folder.parent.name}/{folder.name}" if folder.parent.name else str(folder)
    return text if len(text) <= 26 else f"…{text[-25:]}"
