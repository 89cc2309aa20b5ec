"""The pages of the slip for the photograph, the frame and a pass, each generated from its declaration."""

from __future__ import annotations

import functools
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kyanoscript.core.develop import CameraSource, Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.params import Param
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.files.photos.photo import Photo
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.bench.slip.begin import Begin
from kyanoscript.ui.bench.slip.brush import Brush
from kyanoscript.ui.bench.slip.dabs import add_dabs
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.easel.tools.dab import DabTool
from kyanoscript.ui.easel.tools.stroke import StrokeTool, drawn
from kyanoscript.ui.fields.fields import AskBox, Fields, shrinking
from kyanoscript.ui.fields.target import Chosen, SlipPage
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.plain import hint, lead, tip


class AsDeveloped(Chosen):
    """How a raw is developed: a white of one's own begins at that of the camera."""

    def set(self, label: str, merge: str = "", **values: object) -> None:
        photo = self.desk.photo
        if values.get("white") == "own" and photo is not None and isinstance(photo.source, CameraSource):
            shot = photo.source.as_shot
            values = {"kelvin": float(round(shot.kelvin)), "tint": round(shot.tint, 1), **values}
        super().set(label, merge, **values)


class PhotoPage(SlipPage):
    """What is known of the photograph, and how a raw is developed."""

    gray = Signal()  # the white is to be taken from something gray on the picture
    page_chosen = Signal(int)  # of a file with several
    begun = Signal(object)  # a `Way` to begin a print with
    begins: Begin | None = None

    def build(self) -> None:
        """Lay the page out."""
        lead(self.widget, "first-print#1-open")
        photo = self.desk.photo
        self.column.addWidget(furniture.title("Photo"))
        if photo is None:
            self.column.addWidget(furniture.label("Nothing is open yet", quiet=True))
            return
        width, height = photo.size
        halved = photo.size != (photo.width, photo.height)
        name = furniture.label(photo.path.name)
        name.setWordWrap(True)
        self.column.addWidget(name)
        rows = [
            tr(
                "{width} × {height} pixels, {width2:.1f} megapixels",
                width=width,
                height=height,
                width2=width * height / 1000000.0,
            )
            + (tr("; worked with at {width} × {height}", width=photo.width, height=photo.height) if halved else ""),
            photo.kind,
            photo.colours,
            _as_shot(photo),
            photo.facts.camera,
            photo.facts.lens,
            photo.facts.date,
            tr("{ppi:.0f} pixels per inch", ppi=photo.ppi) if photo.ppi else "",
            *photo.notes,
            "This file is never written to.",
        ]
        if photo.raw:
            self._development(self.desk.script.develop)
            self.column.addSpacing(4)
            self.column.addWidget(furniture.line())
        if photo.facts.pages > 1:
            self._pages(photo)
        for text in rows:
            if text:
                shown = furniture.label(text, quiet=True)
                shown.setWordWrap(True)
                self.column.addWidget(shown)
        self.begins = Begin()
        self.begins.show_for(photo.source.channels == 1)
        self.begins.chosen.connect(self.begun)
        self.column.addWidget(self.begins)

    def show_values(self) -> None:
        super().show_values()
        if self.begins is not None:
            self.begins.setVisible(not self.desk.script.passes)

    def take(self, survey: Survey) -> None:
        super().take(survey)
        if self.begins is not None:
            self.begins.show_for(survey.without_colour)

    def _development(self, develop: Develop) -> None:
        """White, exposure, highlights of a raw."""
        params = develop.params()
        fields = Fields(self, AsDeveloped(self.desk))
        row = QHBoxLayout()
        row.addWidget(furniture.label(params["white"].label, quiet=True))
        white = fields.combo("white", params["white"], develop)  # type: ignore[arg-type]  # it is declared as a choice
        row.addWidget(white, 1)
        gray = furniture.word("Gray…", "Press on something in the picture that is to be gray", act=self.gray)
        self.editors["gray"] = gray
        row.addWidget(gray)
        self.column.addLayout(row)
        fields.add({n: params[n] for n in ("kelvin", "tint", "exposure", "highlights")}, develop)
        row = QHBoxLayout()
        row.addStretch()
        back = furniture.word(
            "Put back",
            "As the camera took it",
            act=lambda: self.desk.set_values("Put the development back", **dict(Develop())),
        )
        row.addWidget(back)
        self.column.addLayout(row)

    def _pages(self, photo: Photo) -> None:
        """Which page of its file it is."""
        row = QHBoxLayout()
        row.addWidget(furniture.label("Page", quiet=True))
        box = shrinking("Page of the file")
        for number in range(1, photo.facts.pages + 1):
            box.addItem(tr("{number} of {pages}", number=number, pages=photo.facts.pages), number)
        box.setCurrentIndex(photo.page - 1)
        box.currentIndexChanged.connect(lambda index: self.page_chosen.emit(index + 1))
        self.editors["page"] = box
        row.addWidget(box, 1)
        self.column.addLayout(row)


def _as_shot(photo: Photo) -> str:
    """The light that the camera took for white."""
    if not isinstance(photo.source, CameraSource):
        return ""
    shot = photo.source.as_shot
    return tr("As shot: {kelvin:.0f} K, tint {tint:+.0f}", kelvin=shot.kelvin, tint=shot.tint).replace(
        "-", "\N{MINUS SIGN}"
    )


class _Framed(Chosen):
    """Width and height as the ratio and the tilt leave them, and not as far as they might reach."""

    def value(self, name: str) -> Any:
        photo, frame = self.desk.photo, self.thing()
        if photo is None or name not in ("width", "height"):
            return super().value(name)
        found, turned = framing(frame, photo.width, photo.height), frame.turns % 2 == 1
        across, down = (photo.height, photo.width) if turned else (photo.width, photo.height)
        share = found.width / across if name == "width" else found.height / down
        return round(min(100 * share, getattr(frame, name)), 2)


class FramePage(SlipPage):
    """The frame."""

    def build(self, frame: Frame) -> None:
        """Lay the page out."""
        lead(self.widget, "passes#frame")
        head = QHBoxLayout()
        head.addWidget(furniture.title(frame.label))
        head.addStretch()
        back = furniture.word(
            "Put back",
            "The whole photograph, as it was opened",
            act=lambda: self.desk.set_values("Put the frame back", **dict(Frame())),
        )
        head.addWidget(back)
        self.column.addLayout(head)
        self.column.addWidget(furniture.wrapped(frame.about))
        self.column.addSpacing(4)
        self.column.addWidget(furniture.line())
        params = frame.params()
        fields = Fields(self, _Framed(self.desk))
        fields.add({n: params[n] for n in ("ratio", "stand", "tilt")}, frame)
        row = QHBoxLayout()
        for text, help, command in (
            ("Turn left", "A quarter turn  ([)", commands.TURN_LEFT),
            ("Turn right", "A quarter turn  (])", commands.TURN_RIGHT),
        ):
            button = furniture.word(text, help, act=functools.partial(self.ask, command))
            row.addWidget(button)
        row.addStretch()
        self.column.addLayout(row)
        fields.add({n: params[n] for n in ("flip", "width", "height", "x", "y")}, frame)
        size = furniture.label("", quiet=True)
        self.shows.append(
            lambda: size.setText(
                tr("{across} × {down} pixels", **dict(zip(("across", "down"), self.desk.print_size(), strict=True)))
            )
        )
        self.column.addWidget(size)
        self.column.addWidget(
            furniture.wrapped(
                "Drag inside the frame to move it, outside to tilt it. Shift-drag along a horizon sets it level. "
                "G changes the guides."
            )
        )


class PassPage(SlipPage):
    """A pass: what every pass has, then its own parameters."""

    develop = Signal(bool)  # pressed, let go
    another = Signal(str, str)  # of this kind of pass, that group of parameters is to be shown

    def build(self, step: Pass, group: str, strokes: StrokeTool) -> None:
        """Lay the page out; ``group`` is the one of its groups of parameters that is shown."""
        lead(self.widget, f"passes#{step.kind}")
        head = QHBoxLayout()
        head.addWidget(furniture.elided_title(step.title), 1)
        for text, help, command in (
            ("Double", "Double this pass  (D)", commands.DOUBLE),
            ("Remove", "Take this pass out of the run  (Delete)", commands.REMOVE),
        ):
            button = furniture.word(text, help, act=functools.partial(self.ask, command))
            head.addWidget(button)
        self.column.addLayout(head)
        about = step.about if step.title == step.label else f"{step.label}: {step.about[0].lower()}{step.about[1:]}"
        says = furniture.wrapped(about)
        tip(says, f"{step.use}. {step.beware}.")
        self.column.addWidget(says)
        if step.note:
            self.column.addWidget(furniture.wrapped(f"“{step.note}”"))
        if step.newest() > 1:
            self._form(Fields(self, Chosen(self.desk)), step)
        params = step.params()
        fields = Fields(self, Chosen(self.desk))
        self.column.addWidget(fields.number("strength", step.number("strength"), step))
        self._strength_row(fields)
        self._stencil(fields, step)
        self.column.addWidget(furniture.line())
        if step.starts:
            self._starts(fields, step)
        if isinstance(strokes, DabTool) and step.draws:
            add_dabs(self, strokes)
            self.column.addWidget(furniture.line())
        own = {name: spec for name, spec in params.items() if name not in COMMON and spec.shown}
        groups = list(dict.fromkeys(spec.group for spec in own.values() if spec.group))
        if len(groups) > 1:
            self._groups(step, own, groups, group or groups[0])
            own = {name: spec for name, spec in own.items() if not spec.group}
        fields.add(own, step)
        if step.draws and not isinstance(strokes, DabTool):
            entry = drawn(step)
            shown = {n: s for n, s in entry.params().items() if n != "points" and s.shown}
            Fields(self, Brush(strokes)).add(shown, strokes.brush)
            self.column.addWidget(
                furniture.wrapped("Draw on the print; Ctrl does the opposite; comma and stop change the size")
            )
        self._foot(fields, step)

    def _form(self, fields: Fields, step: Pass) -> None:
        """What its newest form does, if it is of an older one."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        text = furniture.wrapped("")
        row.addWidget(text, 1)
        use = furniture.word(
            "Use it",
            "The pass as it is made now; what it changes is told beside this",
            act=lambda: self.desk.set_values(tr("{label}: its newest form", label=step.label), of=step.newest()),
        )
        row.addWidget(use)
        self.editors["form"] = use

        def show(p: Pass) -> None:
            text.setText(tr("There is a newer form: {p}", p=p.renewed()))
            holder.setVisible(bool(p.renewed()))

        self.column.addWidget(holder)
        fields.follow(show)

    def _strength_row(self, fields: Fields) -> None:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.develop_button = QPushButton(spoken("Hold to develop   H"))
        self.develop_button.setObjectName("main")
        tip(self.develop_button, "Press and hold: the pass comes up from nothing; let go where the eye says stop")
        self.develop_button.pressed.connect(lambda: self.develop.emit(True))
        self.develop_button.released.connect(lambda: self.develop.emit(False))
        row.addWidget(self.develop_button)
        blend = AskBox("Blend")
        tip(blend, "How the pass is laid over what came in; each mode on this picture  (N steps through)")
        hint(blend, Pass.params()["blend"].help, Pass.params()["blend"].wrong)
        lead(blend, "passes#all-blend")
        blend.asked.connect(lambda: self.ask(commands.CHOOSE_BLEND))
        fields.follow(lambda p: blend.show_text(p.blend.replace("-", " ")))
        self.editors["blend"] = blend
        row.addWidget(blend, 1)
        self.column.addLayout(row)

    def _stencil(self, fields: Fields, step: Pass) -> None:
        """Where the pass acts."""
        row = QHBoxLayout()
        text = furniture.label("", quiet=True)
        row.addWidget(text)
        row.addStretch()
        off = furniture.word(
            "Take off",
            "The pass acts everywhere again",
            act=lambda: self.desk.set_values(tr("{label}: take the stencil off", label=step.label), stencil=None),
        )
        row.addWidget(off)
        draw = furniture.word(
            "Draw…", "Draw on the picture where the pass acts  (M)", act=lambda: self.ask(commands.DRAW_STENCIL)
        )
        row.addWidget(draw)

        def show(p: Pass) -> None:
            off.setVisible(p.stencil is not None)
            if p.stencil is None:
                text.setText("Stencil  everywhere")
            elif isinstance(p.stencil, Stencil):
                count = len(p.stencil.shapes)
                text.setText(trn("Stencil  {count} part", "Stencil  {count} parts", count, count=count))
            else:
                text.setText(tr("Stencil  {stencil}", stencil=p.stencil))

        fields.follow(show)
        self.editors["stencil"], self.editors["draw"] = off, draw
        for word in (off, draw):
            lead(word, "passes#all-stencil")
        self.column.addLayout(row)

    def _starts(self, fields: Fields, step: Pass) -> None:
        row = QHBoxLayout()
        row.addWidget(furniture.label("Start from", quiet=True))
        box = AskBox("Start from")
        tip(box, "Values to begin with, each on this picture  (Shift+P)")
        box.asked.connect(lambda: self.ask(commands.CHOOSE_START))

        def show(p: Pass) -> None:
            values = dict(p)
            fits = (text for text in p.starts if all(values[n] == v for n, v in p.start(text, self.desk.shape).items()))
            box.show_text(next(fits, "own values"))

        fields.follow(show)
        self.editors["start"] = box
        row.addWidget(box, 1)
        self.column.addLayout(row)

    def _groups(self, step: Pass, own: dict[str, Param], groups: list[str], chosen: str) -> None:
        """Several groups of parameters, one shown at a time."""
        row = QHBoxLayout()
        row.setSpacing(10)
        together = QButtonGroup(self.widget)
        for name in groups:
            button = furniture.word(name, "Shows its values; those of the others stay as they are", checkable=True)
            self.shows.append(functools.partial(button.setChecked, name == chosen))
            together.addButton(button)
            row.addWidget(button)
            button.clicked.connect(lambda _=False, name=name: self.another.emit(step.kind, name))
            self.editors[f"group {name}"] = button
        row.addStretch()
        self.column.addLayout(row)
        holder = QWidget()
        inner = QVBoxLayout(holder)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(3)
        self.column.addWidget(holder)
        Fields(self, Chosen(self.desk), inner).add({n: s for n, s in own.items() if s.group == chosen}, step, chosen)

    def _foot(self, fields: Fields, step: Pass) -> None:
        remark = furniture.label("", quiet=True)
        remark.setWordWrap(True)
        row = QHBoxLayout()
        row.addWidget(remark, 1)
        row.addStretch(0)  # takes the room while there is nothing to remark
        if step.touches:
            word = furniture.word(
                "Touch  T",
                "Press on the picture and drag up or down",
                checkable=True,
                act=lambda: self.ask(commands.TOUCH),
            )
            row.addWidget(word)
            self.editors["touch"] = word
        self.column.addLayout(row)

        def show(p: Any) -> None:
            remark.setText(spoken(p.remarks()))
            remark.setVisible(bool(p.remarks()))

        fields.follow(show)
        self.aside = QWidget()
        words = QVBoxLayout(self.aside)
        words.setContentsMargins(0, 0, 0, 0)
        words.addWidget(furniture.line())
        for text in (f"{step.use}.", f"{step.beware}."):
            words.addWidget(furniture.wrapped(text))
        self.column.addWidget(self.aside)
