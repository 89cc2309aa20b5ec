"""The foot of the easel: values under the pointer, messages, zoom, mat, and holding for the original."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QMouseEvent, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QSizePolicy, QWidget

from kyanoscript.core.colour import zone
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.service.results import Pointed
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import Label, tip

_LONG = 8000  # milliseconds that a message stays
_ASIDE, _ROUND = 10, 12  # pixels: of a slip from the window's rim, and round its words


class _Slip(Label):
    """A press takes it away."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.hide()


class Message(Label):
    """A sentence in what room the line has; where that is too little all of it stands on a slip of its own, above."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.slip = _Slip()
        self.slip.setParent(self)  # until it is shown over the window
        self.slip.setFrameShape(QFrame.Shape.StyledPanel)
        self.slip.setObjectName("slip")
        self.slip.setWordWrap(True)
        self.slip.hide()

    @property
    def fits(self) -> bool:
        """Whether the line has room for all of it."""
        return self.fontMetrics().horizontalAdvance(spoken(self.text())) <= self.contentsRect().width()

    def tell(self, text: str) -> None:
        """Another sentence, or none."""
        self.setText(text)
        self.lay()

    def lay(self) -> None:
        """Show the slip, or take it away."""
        foot, window = self.parentWidget(), self.window()
        if not self.text() or self.fits or foot is None or not self.isVisible():
            self.slip.hide()
            return
        self.slip.setParent(window)
        self.slip.setFont(self.font())
        self.slip.setProperty("grave", self.objectName() == "warning")
        self.slip.setText(spoken(self.text()))
        self.slip.style().polish(self.slip)
        corner, room = foot.mapTo(window, QPoint(0, 0)), foot.width() - 2 * _ASIDE
        wide = min(room, self.fontMetrics().horizontalAdvance(spoken(self.text())) + 2 * _ROUND)
        high = self.slip.heightForWidth(wide)
        self.slip.setGeometry(corner.x() + _ASIDE, corner.y() - high - 4, wide, high)
        self.slip.show()
        self.slip.raise_()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.lay()

    def hideEvent(self, event: QHideEvent) -> None:
        self.slip.hide()
        super().hideEvent(event)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.lay()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.fits:
            super().paintEvent(event)


class Foot(QWidget):
    """One line."""

    hold_original = Signal(bool)
    next_mat = Signal()
    whole = Signal()
    actual = Signal()
    stop = Signal()
    pause = Signal()  # or go on
    warned = Signal(str)  # a warning is shown

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(28)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 10, 0)
        row.setSpacing(10)
        self.values = furniture.label("", quiet=True)
        self.values.setAccessibleName(spoken("Values at the pointer"))
        self.values.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        row.addWidget(self.values)
        self.message = Message()
        self.message.setFont(theme.sans(13))
        row.addWidget(self.message, 1)
        self.about = furniture.elided("")
        self.about.setAccessibleName(spoken("About the control"))
        self.about.hide()
        row.addWidget(self.about, 1)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(140)
        self.progress.setRange(0, 1000)
        self.progress.hide()
        row.addWidget(self.progress)
        self.rest = furniture.word("Pause", "What is begun comes to its end", act=self.pause)
        self.cancel = furniture.word("Stop", "", act=self.stop)
        for word in (self.rest, self.cancel):
            word.hide()
            row.addWidget(word)
        self.zoom = self._word("Whole", "Whole print or actual pixels  (F, 1)", self.whole)
        row.addWidget(self.zoom)
        self.pixels = self._word("1:1", "Actual pixels  (1)", self.actual)
        row.addWidget(self.pixels)
        self.mat = self._word("Mat", "Next mat  (B)", self.next_mat)
        row.addWidget(self.mat)
        self.original = self._word("Hold for original  O", "The photo as opened, while held")
        self.original.pressed.connect(lambda: self.hold_original.emit(True))
        self.original.released.connect(lambda: self.hold_original.emit(False))
        row.addWidget(self.original)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(lambda: self._tell(""))

    def _word(self, text: str, help: str, act: furniture.Act | None = None) -> QPushButton:
        made = furniture.word(text, help, act=act)
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return made

    def tell_of(self, text: str) -> None:
        """What the control does that pointer or keyboard is on, while there is nothing else to say."""
        self.about.setText(spoken(text))
        self._give_room()

    def _give_room(self) -> None:
        free = bool(self.about.text()) and not self.message.text()
        self.about.setVisible(free)
        self.message.setVisible(not free)

    def say(self, text: str, warning: bool = False, stay: bool = False) -> None:
        """Show a message, for a while or until the next."""
        self.message.setObjectName("warning" if warning else "")
        self.message.style().polish(self.message)
        self._tell(text)
        tip(self.message, text)
        self._timer.stop()
        if text and not stay:
            self._timer.start(_LONG)
        if text and warning:
            self.warned.emit(text)

    def _tell(self, text: str) -> None:
        self.message.tell(text)
        self._give_room()

    def warn(self, text: str) -> None:
        """Show a warning until the next message."""
        self.say(text, warning=True, stay=True)

    @property
    def working(self) -> bool:
        """Whether work is shown that can be stopped."""
        return self.cancel.isVisibleTo(self)

    def show_progress(
        self, share: float | None, help: str = "Stop writing; nothing is left behind", paused: bool | None = None
    ) -> None:
        """How far the work is, 0…1, and what stopping it does; None when it is over. ``paused``: whether it rests, if
        it can."""
        tip(self.cancel, help)
        self.rest.setVisible(share is not None and paused is not None)
        self.rest.setText(spoken("Go on" if paused else "Pause"))
        self.progress.setVisible(share is not None)
        self.cancel.setVisible(share is not None)
        if share is not None:
            self.progress.setValue(round(share * 1000))

    def show_easel(self, there: bool) -> None:
        """Whether there is an easel to zoom on."""
        for word in (self.zoom, self.pixels, self.mat, self.original):
            word.setVisible(there)

    def show_words(self, text: str) -> None:
        """In the place of the values at the pointer."""
        self.values.setText(spoken(text))

    def show_spot(self, spot: Pointed | None) -> None:
        """Values at the pointer."""
        if spot is None:
            self.values.setText("")
            return
        last = spot.trace[-1] if spot.trace else spot.photo
        gray = last[0] == last[1] == last[2]
        shown = str(last[0]) if gray else " ".join(map(str, last))
        before = " ".join(map(str, spot.photo)) if len(set(spot.photo)) > 1 else str(spot.photo[0])
        self.values.setText(
            tr(
                "Photo {before}  →  print {shown}    zone {gray}    L* {lightness:.0f}",
                before=before,
                shown=shown,
                gray=zone(spot.gray),
                lightness=spot.lightness,
            )
        )

    def show_zoom(self, whole: bool, magnification: float) -> None:
        """How large the print is shown."""
        percent = f"{magnification * 100:.0f} %"
        self.zoom.setText(spoken(tr("Whole {percent}", percent=percent) if whole else percent))
