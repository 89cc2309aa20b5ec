"""Keys, fonts, and what the window owes every user.

Longer than most: short checks that go over everything there is.
"""

import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFontInfo, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QWidget

from kyanoscript import demo
from kyanoscript.core.passes import load_all
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.commands.list import COMMANDS
from kyanoscript.ui.commands.page import KeysDialog
from kyanoscript.ui.commands.view import Held, Panels, View
from kyanoscript.ui.document.desk import PHOTO
from kyanoscript.ui.easel.tools.stencil import HANDS
from kyanoscript.ui.service.views import Look
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.slider import ValueSlider
from tests.conftest import make_colourful
from tests.ui.conftest import Bench

SHIFT = Qt.KeyboardModifier.ShiftModifier


def test_bundled_fonts_are_really_in_use(bench: Bench):
    """Not merely asked for: the family that Qt resolved."""
    assert QFontInfo(theme.sans()).family() == "Figtree"
    assert QFontInfo(theme.serif()).family() == "EB Garamond"
    assert QFontInfo(theme.serif(14, italic=True)).italic()
    bench.add("gray-weights", "levels")
    for widget in bench.window.findChildren(QWidget):
        if widget.isVisible() and (isinstance(widget, QLabel) or widget.metaObject().className() == "QPushButton"):
            assert QFontInfo(widget.font()).family() in ("Figtree", "EB Garamond"), widget


def test_figures_have_one_width():
    from PySide6.QtGui import QFontMetricsF

    widths = {QFontMetricsF(theme.sans(13)).horizontalAdvance(figure * 10) for figure in "0123456789"}
    assert max(widths) - min(widths) < 0.01


def test_text_contrast_is_at_least_four_and_a_half():
    """WCAG 2.2, 1.4.3: (L1 + 0.05) / (L2 + 0.05) on relative luminance."""
    from kyanoscript.core.colour import SRGB, luminance, parse_hex

    def level(ink):
        import numpy as np

        return float(luminance(np.array(parse_hex(ink)).reshape(3, 1), SRGB)[0])

    look = theme.DAYLIGHT
    for ink in (look.text, look.quiet, look.accent, look.warning):
        for ground in (look.panel, look.soft, look.ground):
            if (ink, ground) != (look.warning, look.ground):  # never together
                high, low = sorted((level(ink), level(ground)), reverse=True)
                assert (high + 0.05) / (low + 0.05) >= 4.5, (ink, ground)


def test_chrome_is_neutral_but_for_the_accent():
    look = theme.DAYLIGHT
    for ink in (look.ground, look.panel, look.line, look.text, look.quiet, *theme.MATS.values()):
        assert ink[1:3] == ink[3:5] == ink[5:7]


def test_no_key_means_two_things_and_somebody_does_every_command(bench: Bench):
    registry = bench.window.registry
    keys = [QKeySequence(command.keys).toString() for command in registry.every() if command.keys]
    assert len(keys) == len(set(keys))
    for command in registry.every():
        handler = registry.handler(command)
        assert isinstance(handler, Held) if command.held else callable(handler), command


class Third(View):
    """A view that a test adds."""

    title, keys, help = "Third", "Ctrl+9", "Nothing but a word"

    def __init__(self):
        super().__init__()
        self.word, self.came = QLabel("third"), []

    def panels(self):
        return Panels(QLabel("left"), QLabel("right"), middle=self.word)

    def commands(self):
        return {commands.UNDO: lambda: self.came.append("undo")}

    def undo_words(self):
        return "a word", ""

    def enter(self):
        self.came.append("enter")

    def leave(self):
        self.came.append("leave")


def test_another_view_takes_one_class_and_one_line(qtbot, photo, monkeypatch):
    third = Third()
    monkeypatch.setattr(Window, "views", lambda self: (self.bench, self.recipes, third))
    window = Window()
    window.show()
    window.opening.open(photo)
    settle(window)
    assert [word.text() for word in window.masthead.views.values()] == ["Bench", "Recipes", "Third"]
    assert "Third" in [action.text() for menu in window.menus.actions() for action in menu.menu().actions()]
    QTest.keyClick(window.easel, Qt.Key.Key_9, Qt.KeyboardModifier.ControlModifier)
    assert third.word.isVisible()
    assert not window.easel.isVisible()
    assert window.menus.actions_of[commands.UNDO].text() == "Undo: a word"
    window.registry.do(commands.UNDO)
    assert not window.registry.possible(commands.ADD)
    QTest.keyClick(third.word, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert third.came == ["enter", "undo", "leave"]
    assert window.easel.isVisible()
    assert window.registry.possible(commands.ADD)
    window.close()


def test_strength_and_trays_by_keyboard(bench: Bench):
    bench.add("gray-weights", "levels")
    bench.key(Qt.Key.Key_Down)
    bench.key(Qt.Key.Key_Down, SHIFT)
    assert bench.desk.selected_pass.strength == 89
    bench.key(Qt.Key.Key_0)
    assert bench.desk.selected_pass.strength == 0
    bench.key(Qt.Key.Key_Up)
    assert bench.desk.selected_pass.strength == 1
    bench.key(Qt.Key.Key_Left)
    assert bench.desk.selected == 0
    bench.key(Qt.Key.Key_Right, SHIFT)
    assert [p.kind for p in bench.desk.script.passes] == ["levels", "gray-weights"]
    bench.key(Qt.Key.Key_D)
    assert len(bench.desk.script.passes) == 3
    bench.key(Qt.Key.Key_X)
    assert not bench.desk.selected_pass.on


def test_a_control_with_the_keyboard_keeps_its_arrows(bench: Bench):
    bench.add("gray-weights")
    slider = bench.slip.sliders["red"]
    slider.setFocus()
    QTest.keyClick(slider, Qt.Key.Key_Right)
    assert bench.desk.selected == 0
    assert bench.desk.selected_pass.red == 30.9
    QTest.keyClick(slider, Qt.Key.Key_Right, SHIFT)
    assert bench.desk.selected_pass.red == 40.9
    QTest.keyClick(slider, Qt.Key.Key_X)  # what it does not use is a shortcut still
    assert not bench.desk.selected_pass.on


def test_ring_and_ladder_by_keyboard(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    bench.desk.select(0)
    bench.settle()
    ring = bench.slip.editors["ring"]
    ring.setFocus()
    QTest.keyClick(ring, Qt.Key.Key_Insert)
    for _ in range(5):
        QTest.keyClick(ring, Qt.Key.Key_Up)
    assert [lift for _, lift in bench.desk.selected_pass.ring] == [10]
    QTest.keyClick(ring, Qt.Key.Key_Delete)
    assert bench.desk.selected_pass.ring == ()
    bench.desk.select(1)
    bench.ladder.setFocus()
    QTest.keyClick(bench.ladder, Qt.Key.Key_Up, SHIFT)
    assert bench.desk.selected_pass.stops[0][0] == 10
    QTest.keyClick(bench.ladder, Qt.Key.Key_Insert)
    assert len(bench.desk.selected_pass.stops) == 3


def test_tab_hides_everything_but_the_print_and_back(bench: Bench):
    bench.easel.setFocus()
    bench.key(Qt.Key.Key_Tab)
    assert not bench.slip.isVisible()
    assert not bench.trays.isVisible()
    assert bench.easel.isVisible()
    bench.key(Qt.Key.Key_Tab)
    assert bench.slip.isVisible()


def test_f6_walks_through_the_parts_of_the_window(bench: Bench):
    bench.add("levels")
    bench.easel.setFocus()
    seen = []
    for _ in range(4):
        bench.key(Qt.Key.Key_F6, on=QApplication.focusWidget())
        seen.append(QApplication.focusWidget())
    assert isinstance(seen[0], ValueSlider)
    assert seen[1:] == [bench.trays, bench.ladder, bench.easel]


def test_typing_in_a_field_sets_off_no_shortcut(bench: Bench):
    bench.add("gradient-map")
    field = bench.slip.editors["stops"].colour.hex
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "#0dadad")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert len(bench.desk.script.passes) == 1
    assert bench.desk.selected_pass.stops[0][1] == "#0dadad"


def test_the_wheel_changes_a_value_only_with_the_keyboard_there(bench: Bench):
    from PySide6.QtCore import QPoint
    from PySide6.QtGui import QWheelEvent

    bench.add("gray-weights")
    slider = bench.slip.sliders["red"]

    def turn():
        event = QWheelEvent(
            QPointF(5, 5), slider.mapToGlobal(QPointF(5, 5)), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(slider, event)

    bench.easel.setFocus()
    turn()
    assert bench.desk.selected_pass.red == 29.9
    slider.setFocus()
    turn()
    assert bench.desk.selected_pass.red == 30.9


def test_everything_that_takes_the_keyboard_has_a_name(bench: Bench):
    bench.add("gray-weights", "levels", "gradient-map", "dodge-burn", "plate")
    for index in (*range(5), *(("stencil", hand) for hand, _, _ in HANDS)):
        if isinstance(index, int):
            bench.desk.select(index)
        else:
            bench.easel.stencil.switch(True)
            bench.easel.stencil.take(index[1])
        bench.settle()
        for widget in bench.window.findChildren(QWidget):
            if (
                widget.isVisible()
                and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
                and widget.window() is bench.window
            ):
                named = (
                    widget.accessibleName() or getattr(widget, "text", lambda: "")() or widget.inherits("QScrollArea")
                )
                inner = isinstance(widget.parent(), QComboBox) or widget.inherits("QMenuBar")
                assert named or inner, widget


@pytest.mark.parametrize("kind", list(load_all()))
def test_every_pass_has_its_slip_its_tray_and_its_place_on_the_ladder(shared_bench: Bench, kind):
    bench, failed = shared_bench, []
    bench.window.service.failed.connect(failed.append)
    bench.add(kind)
    assert not failed
    assert len(bench.trays.images) == 2
    for name in ("strength", *bench.slip.sliders):
        assert bench.slip.sliders[name].accessibleName()
    bench.window.resize(1280, 800)
    bench.settle()
    assert bench.slip.page.widget.sizeHint().width() <= bench.slip.width()
    for name, slider in bench.slip.sliders.items():
        middle = (slider.spec.low + slider.spec.high) / 2
        if slider.isVisible():
            bench.slide(name, middle)
    bench.settle()
    assert not failed
    bench.window.service.failed.disconnect(failed.append)
    while bench.desk.undo_label:
        bench.desk.undo()


def test_the_page_of_keys_lists_every_key(bench: Bench):
    every = bench.window.registry.every()
    page = KeysDialog(bench.window, every)
    texts = [label.text() for label in page.findChildren(QLabel)]
    assert len(every) == len(COMMANDS) + len(bench.window.views())
    for command in every:
        if command.keys:
            assert command.text.rstrip("…") in texts
    page.deleteLater()


def test_export_dialog_says_how_large_the_print_will_be(bench: Bench, tmp_path):
    from kyanoscript.files.prints.settings import Settings

    dialog = ExportDialog(bench.window, tmp_path / "a.tif", (2400, 1600), Settings())
    assert "2400 × 1600 pixels, 203 × 135 mm" in dialog.said.text()
    dialog.reduce.setChecked(True)
    bench.type(dialog.page.sliders["longer_side"], "1200")
    dialog.format.setCurrentText("JPEG")
    target, settings = dialog.result_settings()
    assert target.suffix == ".jpg"
    assert (settings.longer_side, settings.bits) == (1200, 8)
    assert "1200 × 800" in dialog.said.text()
    dialog.deleteLater()


@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (960, 600)])
def test_nothing_is_cut_off_at_any_size(bench: Bench, size):
    bench.add("gray-weights", "levels", "gradient-map")
    bench.window.resize(*size)
    for index in range(-1, 3):
        bench.desk.select(index)
        bench.settle()
        page = bench.slip.page.widget
        assert page.sizeHint().width() <= bench.slip.width(), index
        for label in page.findChildren(QLabel):
            if label.isVisible() and not label.wordWrap():
                assert label.width() >= label.sizeHint().width(), label.text()
        if size[1] >= 800:
            assert page.sizeHint().height() <= bench.slip.height(), index  # no scroll bar


def test_the_foot_says_how_large_the_print_is_shown(bench: Bench):
    bench.window.resize(1280, 800)
    bench.settle()
    assert bench.window.foot.zoom.text() == f"Whole {bench.easel.magnification() * 100:.0f} %"
    bench.window.resize(1000, 700)
    bench.settle()
    assert bench.window.foot.zoom.text() == f"Whole {bench.easel.magnification() * 100:.0f} %"
    bench.key(Qt.Key.Key_1)
    assert bench.window.foot.zoom.text() == "100 %"


def test_a_tray_with_the_keyboard_has_a_frame_and_stays_readable(bench: Bench):
    bench.add("levels")
    bench.trays.setFocus()
    image = bench.trays.grab().toImage()
    tray = bench.trays.places.tray(0)
    assert image.pixelColor(int(tray.left()) + 1, int(tray.center().y())).name() == theme.DAYLIGHT.accent.lower()
    below_name = image.pixelColor(int(tray.right()) - 4, int(tray.bottom()) - 34)
    assert below_name.name() == theme.DAYLIGHT.soft.lower()


def test_many_trays_scroll_and_the_chosen_one_is_in_sight(bench: Bench):
    bench.add(*["levels"] * 14)
    box = bench.trays.places.tray(13).toAlignedRect()
    shown = bench.trays.visibleRegion().boundingRect()
    assert shown.contains(box.center())
    bench.desk.select(0)
    bench.settle()
    assert bench.trays.visibleRegion().boundingRect().contains(bench.trays.places.tray(0).toAlignedRect().center())


@pytest.mark.parametrize("print_", demo.PRINTS, ids=lambda print_: print_.word)
def test_demo_photographs_open_with_their_scripts(bare: Bench, print_):
    bare.open(print_.photo, print_.script)
    photo = bare.desk.photo
    assert max(photo.width, photo.height) >= (960 if photo.raw else 1600)
    assert bare.desk.script == read_script(print_.script).script
    assert len(bare.desk.script.passes) >= 2
    assert bare.said() == ""


def test_the_photo_slip_tells_what_the_file_says_of_itself(bare: Bench, tmp_path):
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x0132] = "Marrow Optical", "Ferry 2", "2026:05:15 08:00:00"
    file = tmp_path / "landing.webp"
    Image.fromarray(make_colourful(240, 360)).save(file, "WEBP", exif=exif, lossless=True)
    bare.open(file)
    bare.desk.select(PHOTO)
    bare.settle()
    said = [label.text() for label in bare.slip.page.widget.findChildren(QLabel)]
    for words in ("8-bit RGB WebP", "No profile; taken as sRGB", "Marrow Optical Ferry 2", "2026-05-15 08:00:00"):
        assert words in said


def test_the_demo_prints_are_in_the_menu(bare: Bench):
    menu = bare.window.menus.demos.actions()
    assert [action.text() for action in menu] == [print_.title for print_ in demo.PRINTS]
    menu[1].trigger()
    bare.settle()
    assert bare.desk.photo.path == demo.PRINTS[1].photo
    assert not bare.desk.edited


def test_high_density_screens_render_their_own_pixels(bench: Bench, monkeypatch):
    monkeypatch.setattr(type(bench.easel), "devicePixelRatioF", lambda _: 2.0)
    bench.easel.show_whole()
    place = bench.easel.place()
    assert place.width() > bench.easel.width()
    corner = bench.easel.from_picture(QPointF(0, 0))
    assert bench.easel.to_picture(corner).x() == pytest.approx(0, abs=1e-9)


def test_a_second_window_and_closing_leaves_no_thread(qtbot):
    import threading

    before = threading.active_count()
    window = Window()
    window.show()
    window.opening.open(demo.photo())
    settle(window)
    window.close()
    assert threading.active_count() <= before


def test_no_view_of_a_new_photograph_is_asked_of_the_old_one(bench, tmp_path, monkeypatch):
    other = tmp_path / "other.png"
    Image.fromarray(make_colourful(90, 300)).save(other)
    service, asked = bench.window.service, []
    ask, given = service.ask, service.set_source
    sources = [bench.desk.photo.source]

    def watched(request):
        if isinstance(request, Look):
            asked.append(sources[-1] is bench.desk.photo.source)
        ask(request)

    monkeypatch.setattr(service, "ask", watched)
    monkeypatch.setattr(service, "set_source", lambda source, library: (sources.append(source), given(source, library)))
    bench.open(other)
    assert asked
    assert all(asked)
