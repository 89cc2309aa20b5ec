"""Colours, fonts and the style sheet: the one place where the look is decided."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import resources

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import access

SANS, SERIF = "Figtree", "EB Garamond"


@dataclass(frozen=True)
class Look:
    """The colours of the chrome; strictly neutral but for one accent, so that nothing tints the eye."""

    ground: str = "#E7E7E7"
    panel: str = "#F7F7F7"
    line: str = "#CDCDCD"
    rim: str = "#828282"  # of what is pressed, chosen or typed in: 3 to 1 against panel and ground (WCAG 2.1, 1.4.11)
    text: str = "#1C1C1C"
    quiet: str = "#5A5A5A"
    accent: str = "#17375E"
    soft: str = "#D6DFEA"
    warning: str = "#A2461F"
    field: str = "#FFFFFF"  # where something is typed or drawn


DAYLIGHT = Look()
SAFELIGHT = Look(  # for a dark room
    ground="#121212",
    panel="#1B1B1B",
    line="#3A322A",
    rim="#7A6A58",
    text="#E3A857",
    quiet="#B08548",
    accent="#D9772B",
    soft="#33241A",
    warning="#F08A5D",
    field="#121212",
)
EVENING = Look(  # where the desktop is dark
    ground="#1E1E1E",
    panel="#2A2A2A",
    line="#444444",
    rim="#8E8E8E",
    text="#ECECEC",
    quiet="#B6B6B6",
    accent="#A3C0E6",
    soft="#36465B",
    warning="#F2A583",
    field="#1C1C1C",
)
LOOKS = {"daylight": DAYLIGHT, "evening": EVENING, "safelight": SAFELIGHT}
_present = DAYLIGHT
_worn: Look | None = None  # what the application has on
_loaded = False
MATS = {"mid gray": "#8C8C8C", "paper white": "#F4F4F4", "near black": "#161616"}


def colour(name: str) -> QColor:
    """A colour of the present look by its name."""
    return QColor(getattr(_present, name))


def load_fonts() -> list[str]:
    """Register the bundled fonts; returns the families that are now available."""
    families: list[str] = []
    for file in sorted((resources.files("kyanoscript") / "fonts").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".ttf"):
            identity = QFontDatabase.addApplicationFontFromData(file.read_bytes())
            families += QFontDatabase.applicationFontFamilies(identity)
    return families


def sans(pixels: float = 13, medium: bool = False) -> QFont:
    """The plain face, with figures of one width."""
    font = QFont(SANS)
    font.setPixelSize(round(pixels))
    font.setWeight(QFont.Weight.Medium if medium else QFont.Weight.Normal)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def serif(pixels: float = 18, italic: bool = False) -> QFont:
    """The book face, for titles and names of passes."""
    font = QFont(SERIF)
    font.setPixelSize(round(pixels))
    font.setItalic(italic)
    return font


def width_of(font: QFont, text: str) -> float:
    """How wide a text is, in points."""
    return QFontMetricsF(font).horizontalAdvance(spoken(text))


def look_for(chosen: str) -> Look:
    """The look that is worn: what was chosen, and daylight as light or dark as the desktop is."""
    return EVENING if chosen == "daylight" and desktop_is_dark() else LOOKS[chosen]


def desktop_is_dark() -> bool:
    """Whether it says so."""
    return QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark


def apply(app: QApplication, look: Look = DAYLIGHT) -> None:
    """Dress the application."""
    global _loaded
    if not _loaded:
        _loaded = bool(load_fonts())
        app.setStyle("Fusion")
        access.install()
    use(app, look)


def use(app: QApplication, look: Look) -> None:
    """Change to a look."""
    global _present, _worn
    if look is _worn:
        return
    _present = _worn = look
    app.setFont(sans())
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, value in {
        roles.Window: look.panel,
        roles.Base: look.panel,
        roles.AlternateBase: look.ground,
        roles.Button: look.panel,
        roles.WindowText: look.text,
        roles.Text: look.text,
        roles.ButtonText: look.text,
        roles.ToolTipBase: look.panel,
        roles.ToolTipText: look.text,
        roles.Highlight: look.accent,
        roles.HighlightedText: look.panel,
        roles.PlaceholderText: look.quiet,
        roles.Mid: look.line,
    }.items():
        palette.setColor(role, QColor(value))
    palette.setColor(QPalette.ColorGroup.Disabled, roles.ButtonText, QColor(look.quiet))
    palette.setColor(QPalette.ColorGroup.Disabled, roles.Text, QColor(look.quiet))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(look))


def _sheet(c: Look) -> str:
    return f"""
    * {{ outline: none; }}
    QWidget {{ color: {c.text}; }}
    QLabel#quiet {{ color: {c.quiet}; }}
    QLabel#name {{ color: {c.accent}; }}
    QLabel#warning {{ color: {c.warning}; }}
    QLabel#slip {{ background: {c.panel}; border: 1px solid {c.rim}; padding: 5px 10px; }}
    QLabel#slip[grave="true"] {{ color: {c.warning}; }}
    QFrame#popup {{ background: {c.panel}; border: 1px solid {c.quiet}; }}
    QListWidget {{ background: {c.panel}; border: none; }}
    QListWidget::item {{ height: 27px; }}
    QListWidget::item:selected {{ background: {c.soft}; color: {c.text}; }}
    QWidget#bar {{ background: {c.soft}; border-bottom: 1px solid {c.line}; }}
    QDialog, QMessageBox {{ background: {c.panel}; }}
    QFrame#line {{ background: {c.line}; border: none; }}
    QMenuBar {{ background: transparent; spacing: 2px; }}
    QMenuBar::item {{ background: transparent; padding: 5px 8px; color: {c.quiet}; }}
    QMenuBar::item:selected {{ background: {c.soft}; color: {c.text}; }}
    QMenu {{ background: {c.panel}; border: 1px solid {c.line}; padding: 4px 0; }}
    QMenu::item {{ padding: 5px 28px 5px 16px; }}
    QMenu::item:selected {{ background: {c.soft}; }}
    QMenu::item:disabled {{ color: {c.quiet}; }}
    QMenu::separator {{ height: 1px; background: {c.line}; margin: 4px 0; }}
    QPushButton {{ background: {c.panel}; border: 1px solid {c.rim}; padding: 5px 11px; min-height: 14px; }}
    QPushButton:hover {{ border-color: {c.quiet}; }}
    QPushButton:focus {{ border: 2px solid {c.accent}; padding: 4px 10px; }}
    QPushButton:pressed, QPushButton:checked {{ background: {c.soft}; border-color: {c.accent}; }}
    QPushButton:disabled {{ color: {c.quiet}; border-color: {c.line}; }}
    QPushButton#main {{ background: {c.soft}; border-color: {c.accent}; color: {c.accent}; }}
    QPushButton#word {{ background: transparent; border: 1px solid transparent; color: {c.accent}; padding: 3px 4px; }}
    QPushButton#word:hover {{ border-bottom: 1px solid {c.accent}; }}
    QPushButton#word:focus {{ border: 1px solid {c.accent}; }}
    QPushButton#word:checked {{ background: transparent; border-bottom: 2px solid {c.accent}; }}
    QPushButton#word:disabled {{ color: {c.quiet}; }}
    QComboBox {{ background: {c.panel}; border: 1px solid {c.rim}; padding: 4px 8px; min-height: 16px; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url({_arrow()}); width: 9px; height: 6px; }}
    QComboBox:hover {{ border-color: {c.quiet}; }}
    QComboBox:focus {{ border: 2px solid {c.accent}; padding: 3px 7px; }}
    QComboBox QAbstractItemView {{ background: {c.panel}; border: 1px solid {c.line};
        selection-background-color: {c.soft}; selection-color: {c.text}; }}
    QLineEdit, QSpinBox, QDoubleSpinBox {{ background: {c.field}; border: 1px solid {c.rim}; padding: 4px 7px; }}
    QAbstractSpinBox QLineEdit {{ background: transparent; border: none; padding: 0 7px; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ width: 0; border: none; }}
    QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border: 2px solid {c.accent}; padding: 3px 6px; }}
    QCheckBox {{ spacing: 8px; }}
    QCheckBox::indicator {{ width: 9px; height: 9px; border: 1px solid {c.quiet}; border-radius: 5px; }}
    QCheckBox::indicator:checked {{ background: {c.accent}; border-color: {c.accent}; }}
    QCheckBox:focus {{ color: {c.accent}; text-decoration: underline; }}
    QPushButton#view {{ background: transparent; border: 1px solid transparent; border-bottom: 3px solid transparent;
        padding: 2px 4px 0 4px; min-height: 0; color: {c.quiet}; }}
    QPushButton#view:checked {{ border-bottom: 3px solid {c.accent}; color: {c.text}; }}
    QPushButton#view:hover {{ color: {c.text}; }}
    QPushButton#view:focus {{ border: 1px solid {c.accent}; padding-bottom: 2px; color: {c.accent}; }}
    QPushButton#view:focus:checked {{ border-bottom: 3px solid {c.accent}; padding-bottom: 0; }}
    QTableWidget {{ border: 1px solid {c.line}; }}
    QTableWidget::item {{ padding: 0 8px; }}
    QTableWidget::item:selected {{ background: {c.soft}; color: {c.text}; }}
    QHeaderView, QHeaderView::section {{ background: {c.panel}; color: {c.quiet}; border: none; }}
    QHeaderView::section {{ border-bottom: 1px solid {c.line}; padding: 5px 8px; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollBar {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ width: 8px; }}
    QScrollBar:horizontal {{ height: 8px; }}
    QScrollBar::handle {{ background: {c.line}; min-width: 24px; min-height: 24px; }}
    QScrollBar::handle:hover {{ background: {c.quiet}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: none;
        border: none; width: 0; height: 0; }}
    QToolTip {{ background: {c.panel}; color: {c.text}; border: 1px solid {c.line}; padding: 3px 5px; }}
    QProgressBar {{ background: {c.ground}; border: none; max-height: 4px; }}
    QProgressBar::chunk {{ background: {c.accent}; }}
    """


def _arrow() -> str:
    """The small triangle of a list that opens; style sheets take pictures from files only."""
    return str(resources.files(__package__) / "arrow.png").replace("\\", "/")


HAND = Qt.CursorShape.PointingHandCursor
