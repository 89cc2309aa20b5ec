"""The slip: one page for whatever is chosen, and holding to develop."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial
from kyanoscript.translation import spoken
from kyanoscript.ui.bench.slip.pages import FramePage, PassPage, PhotoPage
from kyanoscript.ui.bench.slip.stencil_page import StencilPage
from kyanoscript.ui.bench.slip.told import ToldLines
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.fields.colour import kept
from kyanoscript.ui.fields.target import SlipPage
from kyanoscript.ui.service.requests import Judge
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.developing import Developing
from kyanoscript.ui.widgets.slider import ValueSlider

_KEPT = 16  # pages that are laid out: to lay one out takes the time of two or three views


class Slip(QWidget):
    """Shows the page of what is chosen."""

    asked = Signal(object)  # a Command: something that is done elsewhere
    inks_changed = Signal()
    page_chosen = Signal(int)  # another page of the photograph's file
    begun = Signal(object)  # a `Way` to begin a print with
    strip = Signal(object)  # a Dial: a test strip of it is wanted
    sought = Signal(object)  # a Dial: it is to be sought with others
    marks_changed = Signal(object)  # the parameters whose tones have handles on the ladder

    def __init__(self, context: Context, show_model: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self.easel, self._foot = context.desk, context.easel, context.foot
        self._show_model = show_model  # a photograph that is to lend its colours
        desk, easel = self.desk, self.easel
        self.setFixedWidth(304)
        self.setAccessibleName(spoken("Slip"))
        self.inks: tuple[str, ...] = ()  # kept for every print
        self.survey: Survey | None = None
        self._judged: Script | None = None  # what was last asked about what goes wrong
        self._group: dict[str, str] = {}  # which group of a pass's parameters was shown last
        self._shown: object = None  # what the page is for
        self._pages: dict[object, SlipPage] = {}  # those that are laid out, the one shown last at the end
        self.developing = Developing(self)
        self.developing.came.connect(lambda strength: self.desk.set_values("Develop", strength=strength))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self.area = furniture.scrolling()
        outer.addWidget(self.area)
        self.holder = QWidget()
        self._column = QVBoxLayout(self.holder)
        self._column.setContentsMargins(0, 0, 0, 0)
        self.area.setWidget(self.holder)
        self.area.viewport().installEventFilter(self)
        self.wrong = ToldLines(context)
        outer.addWidget(self.wrong)
        self._service = context.service
        desk.script_changed.connect(self._follow)
        desk.selection_changed.connect(self._follow)
        desk.handle_changed.connect(self._follow)
        desk.photo_changed.connect(self._forget)
        easel.stencil.changed.connect(self._follow)
        easel.strokes.changed.connect(self._follow)
        easel.dabs.changed.connect(self._follow)
        context.service.answers(Survey).connect(self._take)
        self.page: SlipPage = PhotoPage(desk, self._kept, self.asked.emit)  # until the first is built
        self._show()

    @property
    def sliders(self) -> dict[str, ValueSlider]:
        """The sliders of the page, by the name of what they set."""
        return self.page.sliders

    @property
    def editors(self) -> dict[str, QWidget]:
        """Its other controls."""
        return self.page.editors

    def _what(self) -> object:
        """What the page depends on, besides values."""
        desk, tool = self.desk, self.easel.stencil
        chosen = desk.selected_thing
        words = (getattr(chosen, "name", ""), getattr(chosen, "note", ""))
        kind = chosen.kind if chosen else ""
        base = (desk.path, desk.selected, kind, *words, self._group.get(kind, ""), self.easel.dabs.active)
        if tool.active:
            part = type(tool.part).__name__ if not tool.paints else ""
            return (*base, tool.hand, part, isinstance(getattr(chosen, "stencil", None), str))
        return base

    def _follow(self, *_: object) -> None:
        if self._what() != self._shown:
            self._show()
        else:
            self.page.show_values()

    def _take(self, survey: Survey) -> None:
        self.survey = survey
        if survey.wanted.looked_at[1] == self.desk.entering()[1] and survey.taken != self.desk.taken:
            self.desk.taken = survey.taken
            self.easel.dabs.offered.follow()
            self.page.show_values()
        self.page.take(survey)
        script = survey.wanted.script
        if survey.wanted.rested and self.isVisible():
            self.easel.make_ready()
        if survey.wanted.rested and self.isVisible() and not script.takes_long and script != self._judged:
            self._judged = script
            self._service.ask(Judge(script))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.LayoutRequest):
            self._give_room()
        return False

    def _give_room(self) -> None:
        """What stands aside is shown where the page has room for it without a scroll bar."""
        aside = self.page.aside
        if aside is not None:
            wide, high = self.area.viewport().width(), self.area.viewport().height()
            layout = self.page.widget.layout()
            kept = aside.isVisibleTo(self.page.widget)
            aside.setVisible(True)
            needed = layout.heightForWidth(wide) if layout is not None else 0
            aside.setVisible(needed <= high)
            if kept != (needed <= high):
                self.page.widget.updateGeometry()

    def _forget(self) -> None:
        """Another photograph: every page is laid out anew."""
        self._judged = None
        old, self._pages = self._pages, {}
        self._show()
        for page in old.values():
            self._drop(page)

    def _show(self) -> None:
        """Bring the page for what is chosen: as it was laid out before, or new."""
        old, self._shown = self.page, self._what()
        if old.held:  # what the hand is on goes; so far it counts, and no further
            self.desk.commit()
            self._pages = {what: page for what, page in self._pages.items() if page is not old}
            self._drop(old)
        else:
            old.leave()
        page = self._pages.pop(self._shown, None)
        if page is None:
            page = self._page()
            page.said.connect(self._warn)
            page.model.connect(self._show_model)
            page.pick.connect(self._pick)
            page.keep.connect(lambda ink: self._inks(kept(self.inks, ink)))
            page.drop.connect(lambda ink: self._inks(tuple(other for other in self.inks if other != ink)))
            for name, slider in page.sliders.items():
                slider.has_strip = True
                slider.wanted_strip.connect(lambda name=name: self._ask_strip(name))
                slider.wanted_seek.connect(lambda name=name: self._ask_strip(name, others=True))
            page.column.addStretch()
            self._column.addWidget(page.widget)
        self.page = self._pages[self._shown] = page
        page.come()
        self._give_room()
        self.area.verticalScrollBar().setValue(0)
        self.marks_changed.emit(page.marks)
        self.easel.picker.give_up()  # who was waiting for a colour is gone
        self.show_touch(self.easel.touch.on)
        page.show_values()
        if self.survey is not None:
            page.take(self.survey)
        while len(self._pages) > _KEPT:
            self._drop(self._pages.pop(next(iter(self._pages))))

    def _drop(self, page: SlipPage) -> None:
        """Let a page go. The button that asked for another may still be in its own signal, so not quite at once."""
        page.leave()
        page.widget.deleteLater()
        page.deleteLater()

    def _page(self) -> SlipPage:
        """The page for what is chosen."""
        chosen = self.desk.selected_thing
        if chosen is None or isinstance(chosen, Develop):
            photo = PhotoPage(self.desk, self._kept, self.asked.emit)
            photo.gray.connect(lambda: self.easel.picker.begin_gray(self._white))
            photo.page_chosen.connect(self.page_chosen)
            photo.begun.connect(self.begun)
            photo.build()
            return photo
        if isinstance(chosen, Frame):
            frame = FramePage(self.desk, self._kept, self.asked.emit)
            frame.build(chosen)
            return frame
        if self.easel.stencil.active:
            stencil = StencilPage(self.desk, self._kept, self.asked.emit)
            stencil.build(self.easel.stencil)
            return stencil
        page = PassPage(self.desk, self._kept, self.asked.emit)
        page.develop.connect(lambda down: self.start_developing() if down else self.stop_developing())
        page.another.connect(self._other_group)
        drawing = self.easel.dabs if self.easel.dabs.active else self.easel.strokes
        page.build(chosen, self._group.get(chosen.kind, ""), drawing)
        return page

    def _other_group(self, kind: str, group: str) -> None:
        self._group[kind] = group
        self._follow()

    def _kept(self) -> tuple[str, ...]:
        return self.inks

    def _inks(self, inks: tuple[str, ...]) -> None:
        self.inks = inks
        self.page.show_values()
        self.inks_changed.emit()

    def _warn(self, text: str) -> None:
        self._foot.say(text, warning=True)

    def _white(self, kelvin: float, tint: float) -> None:
        """Something on the picture is to be gray."""
        self.desk.set_values("White from something gray", white="own", kelvin=round(kelvin), tint=round(tint, 1))

    def _pick(self, take: Callable[[str], None]) -> None:
        """The next press on the picture gives its colour to ``take``."""
        self.easel.picker.begin(take)
        self._warn("Press on the picture to take its colour; with Shift from the print as it is. Escape leaves it")

    def show_touch(self, on: bool) -> None:
        """Show whether Touch is on."""
        word = self.editors.get("touch")
        if isinstance(word, QPushButton):
            word.setChecked(on)

    # Test strips

    def dial_in_hand(self) -> Dial | None:
        """The number whose control has the keyboard; None: no control has it, or it is of no number of the script."""
        name = next((name for name, slider in self.sliders.items() if slider.hasFocus()), None)
        return self.dial_of(name) if name is not None else None

    def _ask_strip(self, name: str, others: bool = False) -> None:
        dial = self.dial_of(name)
        if dial is None:
            self._warn("Of this one there is no strip; it is no value of the print")
        else:
            (self.sought if others else self.strip).emit(dial)

    def dial_of(self, name: str) -> Dial | None:
        """The number of the script that a slider of this page sets."""
        chosen = self.desk.selected_thing
        if isinstance(chosen, Frame):
            return Dial("frame", name)
        if isinstance(chosen, Develop):
            return Dial("develop", name)
        if chosen is None:
            return None
        if name in chosen.params() and not (self.easel.stencil.active and name not in ("grow", "feather")):
            return Dial("pass", name, chosen.id)
        dial = Dial("stencil", name, chosen.id)
        return dial if dial.spec(self.desk.script) is not None and not self.easel.stencil.paints else None

    # Hold to develop

    def start_developing(self) -> None:
        """The pass comes up from nothing while this is held."""
        if self.desk.selected_pass is None or self.developing.running:
            return
        self.desk.begin("Develop")
        self.developing.start()

    def stop_developing(self) -> None:
        """Let go: the strength stays where it is."""
        if self.developing.stop():
            self.desk.commit()

    def give_up_developing(self) -> bool:
        """Escape: the strength is as before. False if nothing was being developed."""
        if not self.developing.stop():
            return False
        self.desk.abort()
        return True
