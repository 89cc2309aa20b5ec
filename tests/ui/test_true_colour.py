"""What is shown goes through the monitor's profile; a raw's slip; pages; prints of wide photographs."""

import io
import struct
import time
import warnings

import imagecodecs
import numpy as np
import pytest
import tifffile
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript import demo
from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, OPRGB, SPACES, SRGB
from kyanoscript.core.picture import Rect
from kyanoscript.core.picture.table import grid
from kyanoscript.files.colour import monitors, profiles
from kyanoscript.files.colour.monitors import MonitorProfile, from_colord
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.ui.commands.monitor import FOUND, MonitorDialog
from kyanoscript.ui.commands.monitor import SRGB as AS_SRGB
from kyanoscript.ui.document.desk import PHOTO
from kyanoscript.ui.service import display
from tests.conftest import make_colourful

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as science

PLACES = [0.69, 0.305, 1, 0.22, 0.7, 1, 0.148, 0.055, 1]
WIDE = bytes(imagecodecs.cms_profile("rgb", whitepoint=[0.3127, 0.329, 1], primaries=PLACES, gamma=2.2))


@pytest.fixture(autouse=True)
def as_before():
    yield
    display.set_monitor(b"")


def lab(values, profile):
    """CIELAB under D50 of a monitor's values, by little-CMS."""
    return imagecodecs.cms_transform(
        np.ascontiguousarray(values, np.float32)[None], profile, imagecodecs.cms_profile("lab2"), colorspace="rgb",
        outcolorspace="lab", outdtype=np.float32, intent=1,
    )[0]  # fmt: skip


@pytest.mark.parametrize("space", SPACES, ids=lambda space: space.name)
@pytest.mark.parametrize("monitor", [b"", WIDE], ids=["sRGB", "wide"])
def test_what_is_shown_is_within_one_of_little_cms(space, monitor):
    """ΔE2000 of what the screen is handed against the conversion in float, on colours between the table's own."""
    display.set_monitor(monitor)
    rng = np.random.default_rng(4)
    rgb = np.concatenate([rng.random((4000, 3)), np.repeat(np.linspace(0, 1, 200)[:, None], 3, 1)]).astype(np.float32)
    target = monitor or profiles.srgb()
    shown = display.screen().shown(np.ascontiguousarray(rgb.T[:, None]), space)[0, :, 2::-1] / 255
    exact = np.clip(profiles.transformed(rgb[None], profiles.of_space(space), target, 1, True)[0], 0, 1)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        away = science.delta_E(lab(shown, target), lab(exact, target), method="CIE 2000")
    assert np.percentile(away, 99) < 1
    assert away.mean() < 0.4


def test_an_srgb_photograph_on_an_srgb_monitor_is_handed_on_as_it_is():
    planes = np.moveaxis(make_colourful(20, 30), 2, 0).astype(np.float32) / np.float32(255)
    assert np.array_equal(display.screen().shown(planes, SRGB)[..., 2::-1], make_colourful(20, 30))


def test_grays_are_shown_gray_and_in_order():
    display.set_monitor(WIDE)
    ramp = np.linspace(0, 1, 500, dtype=np.float32).reshape(1, 1, 500)
    for space in SPACES:
        shown = display.screen().shown(ramp, space)[0, :, :3].astype(int)
        assert np.ptp(shown, axis=1).max() <= 1
        assert np.diff(shown[:, 1]).min() >= 0
        assert (shown[0].max(), shown[-1].min()) == (0, 255)


def test_a_part_is_put_where_it_lies():
    display.set_monitor(WIDE)
    planes = np.moveaxis(make_colourful(20, 30), 2, 0).astype(np.float32) / np.float32(255)
    whole = display.screen().shown(planes, DISPLAY_P3)
    out = np.zeros((20, 30, 4), np.uint8)
    for rect in (Rect(0, 0, 17, 20), Rect(17, 0, 13, 9), Rect(17, 9, 13, 11)):
        part = planes[:, rect.y : rect.bottom, rect.x : rect.right]
        display.screen().place(part, rect, Rect(0, 0, 30, 20), out, DISPLAY_P3)
    assert np.array_equal(out, whole)


def test_what_a_monitor_cannot_show_is_counted():
    strong = np.zeros((3, 10, 10), np.float32)
    strong[1] = 1
    strong[:, :5] = 0.5
    assert display.screen().unseen(strong, BT2020) == pytest.approx(0.5, abs=0.01)
    assert display.screen().unseen(strong, SRGB) == 0
    display.set_monitor(profiles.of_space(BT2020))
    assert display.screen().unseen(strong, BT2020) == 0


@pytest.mark.parametrize("data", [b"nonsense" * 30, profiles.gray(), WIDE[:200]])
def test_what_is_no_monitors_profile_is_refused(data):
    with pytest.raises(ValueError, match=r"not of a monitor|cannot be used"):
        display.set_monitor(data)


def test_the_table_is_a_grid_of_33():
    assert grid().shape == (33**3, 1, 3)
    assert grid()[1, 0].tolist() == [0, 0, 1 / 32]


# Finding the profile


class Reply:
    def __init__(self, *body):
        self.body = body


class Colord:
    """Answers as colord does (org.freedesktop.ColorManager), for two monitors."""

    def __init__(self, file):
        self.told = {
            ("/display/1", "Metadata"): {"XRANDR_name": "eDP-1"},
            ("/display/2", "Metadata"): {"XRANDR_name": "DP-3"},
            ("/display/1", "Profiles"): [],
            ("/display/2", "Profiles"): ["/profile/9"],
            ("/profile/9", "Filename"): str(file),
        }

    def send_and_get_reply(self, message, timeout):
        from jeepney import HeaderFields

        path = message.header.fields[HeaderFields.path]
        member = message.header.fields[HeaderFields.member]
        if member == "GetDevicesByKind":
            assert message.body == ("display",)
            return Reply(["/display/1", "/display/2"])
        return Reply(("v", self.told[path, message.body[1]]))


def test_colord_is_asked_for_the_profile_of_this_screen(tmp_path):
    file = tmp_path / "monitor.icc"
    file.write_bytes(WIDE)
    found = from_colord(Colord(file), "DP-3")
    assert found.data == WIDE
    assert found.where == "the system's colour settings"
    assert from_colord(Colord(file), "eDP-1") is None  # it has none
    assert from_colord(Colord(file), "HDMI-1") is None  # which of two would it be?


def test_where_nothing_answers_there_is_no_profile(monkeypatch):
    monkeypatch.setenv("DISPLAY", ":97")
    monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", "unix:path=/nowhere")
    assert monitors.find("eDP-1") is None  # and it does not wait for an answer: there is nobody to give one


# In the window


def flower(tmp_path, space=DISPLAY_P3, name="flower.tif"):
    """A colour that sRGB does not hold, with its profile."""
    pixels = np.zeros((60, 90, 3), np.uint16)
    pixels[:] = (60000, 9000, 12000)
    pixels[20:40, 30:60] = 32768
    file = tmp_path / name
    tifffile.imwrite(file, pixels, photometric="rgb", iccprofile=profiles.of_space(space))
    return file


def colour_at(bench, x, y):
    """What the easel is painted with at a place."""
    window = bench.window
    spot = window.easel.from_picture(QPointF(x, y)).toPoint()
    pixel = window.easel.grab().toImage().pixelColor(spot)
    return pixel.red(), pixel.green(), pixel.blue()


def test_a_wide_photograph_is_shown_through_the_chosen_monitor(bench, tmp_path):
    bench.window.opening.open(flower(tmp_path))
    bench.settle()
    assert bench.window.desk.photo.source.space is DISPLAY_P3
    assert "more colourful than sRGB shows" in bench.window.foot.message.text()
    on_srgb = colour_at(bench, 0.1, 0.1)
    icc = tmp_path / "wide.icc"
    icc.write_bytes(profiles.of_space(DISPLAY_P3))
    bench.window.monitor.use(str(icc))
    bench.settle()
    on_p3 = colour_at(bench, 0.1, 0.1)
    assert np.abs(np.array(on_p3) - [233, 35, 47]).max() <= 1  # the photograph's own values
    assert on_srgb[0] > on_p3[0] + 5  # sRGB's red is cut off at its end
    assert bench.window.monitor.words() == "wide.icc"
    bench.window.monitor.use(AS_SRGB)
    bench.settle()
    assert colour_at(bench, 0.1, 0.1) == on_srgb


def test_the_monitor_is_found_or_chosen_and_remembered(bench, tmp_path):
    monitor = bench.window.monitor
    monitor.look_for = lambda name: MonitorProfile(WIDE, "Quay panel", "the X screen")
    monitor.use(FOUND)
    bench.settle()
    assert monitor.words() == "Quay panel"
    dialog = MonitorDialog(monitor)
    assert "Quay panel, from the X screen" in dialog.as_found.text()
    icc = tmp_path / "own.icc"
    icc.write_bytes(WIDE)
    dialog.take(str(icc))
    assert dialog.choice() == str(icc)
    monitor.use(dialog.choice())
    bench.settle()
    assert bench.window.habits.as_left().monitor == str(icc)
    (tmp_path / "bad.icc").write_bytes(b"nonsense")
    monitor.use(str(tmp_path / "bad.icc"))
    bench.settle()
    assert "bad.icc" in bench.window.foot.message.text()
    assert monitor.choice == str(icc)  # what was chosen before stays
    monitor.use(str(tmp_path / "missing.icc"))
    bench.settle()
    assert "missing.icc" in bench.window.foot.message.text()


def test_the_thumbnail_in_a_script_file_is_srgb_whatever_the_monitor(bench, tmp_path):
    import zipfile

    from PIL import Image

    bench.window.opening.open(flower(tmp_path, SRGB))
    bench.settle()
    pictures = []
    for name, monitor in (("a", AS_SRGB), ("b", None)):
        if monitor is None:
            icc = tmp_path / "wide.icc"
            icc.write_bytes(profiles.of_space(BT2020))
            monitor = str(icc)
        bench.window.monitor.use(monitor)
        bench.settle()
        bench.window.saving.save_to(tmp_path / f"{name}.kyano")
        bench.settle()
        with (
            zipfile.ZipFile(tmp_path / f"{name}.kyano") as archive,
            Image.open(io.BytesIO(archive.read("preview.png"))) as image,
        ):
            pictures.append(np.asarray(image.convert("RGB")))
    assert np.array_equal(*pictures)


def test_a_raw_is_developed_on_its_slip(bench):
    """Opened, brightened, its white taken from a press on something gray, and all of it taken back."""
    print_ = demo.finished("from-raw")
    bench.window.opening.open(print_.photo)
    bench.settle()
    desk, slip = bench.window.desk, bench.window.bench.slip
    assert desk.photo.raw
    assert not desk.photo.stand_in
    desk.select(PHOTO)
    before = np.array(colour_at(bench, 0.5, 0.6))
    bench.type("exposure", "1")
    bench.settle()
    assert desk.script.develop.exposure == 1.0
    assert (np.array(colour_at(bench, 0.5, 0.6)) > before + 10).all()
    slip.editors["gray"].click()
    assert bench.window.easel.picker.active
    QTest.mouseClick(
        bench.window.easel, Qt.MouseButton.LeftButton, pos=bench.window.easel.from_picture(QPointF(0.5, 0.75)).toPoint()
    )
    bench.settle()
    assert desk.script.develop.white == "own"
    assert 2000 <= desk.script.develop.kelvin <= 25_000
    assert not bench.window.easel.picker.active
    assert slip.sliders["kelvin"].isVisible()
    desk.undo()
    desk.undo()
    bench.settle()
    assert desk.script.develop.exposure == 0
    box = slip.editors["white"]
    box.setCurrentIndex(box.findData("own"))  # one's own white begins at the camera's
    bench.settle()
    assert desk.script.develop.kelvin == pytest.approx(4300, rel=0.01)
    assert np.abs(np.array(colour_at(bench, 0.5, 0.6)) - before).max() <= 1
    desk.undo()
    bench.settle()
    assert np.array_equal(colour_at(bench, 0.5, 0.6), before)
    desk.saved_as(None, desk.script)


def test_the_preview_of_a_raw_stands_in_until_it_is_there(bench, tmp_path, monkeypatch):
    """What is done in the meantime stays."""
    from kyanoscript.ui.commands import opening

    real, wait = opening.open_photo, []

    def slow(*args, **more):
        while wait == []:
            time.sleep(0.01)
        return real(*args, **more)

    monkeypatch.setattr(opening, "open_photo", slow)
    job = bench.window.opening.open(demo.photo(demo.RAW))
    bench.qtbot.waitUntil(lambda: bench.window.desk.photo.stand_in)
    assert job is not None
    bench.window.bench.passes.add("soften")
    assert "preview" in bench.window.foot.message.text()
    wait.append(True)
    bench.settle()
    assert bench.window.desk.photo.raw
    assert [step.kind for step in bench.window.desk.script.passes] == ["soften"]
    bench.window.desk.saved_as(None, bench.window.desk.script)


def test_another_page_is_chosen_on_the_slip(bench, tmp_path):
    file = tmp_path / "scans.tif"
    with tifffile.TiffWriter(file) as tiff:
        for k in range(3):
            tiff.write(make_colourful(60 + 10 * k, 90), photometric="rgb")
    bench.window.opening.open(file)
    bench.settle()
    desk = bench.window.desk
    box = bench.window.bench.slip.editors["page"]
    assert [box.itemText(k) for k in range(box.count())] == ["1 of 3", "2 of 3", "3 of 3"]
    box.setCurrentIndex(2)
    bench.settle()
    assert (desk.photo.page, desk.photo.height) == (3, 80)
    assert "scans.tif[3]" in bench.window.masthead.open.text()
    assert bench.window.bench.slip.editors["page"].currentIndex() == 2


def test_a_print_of_a_wide_photograph_is_exported_as_it_is(bench, tmp_path):
    from kyanoscript.files.prints.settings import Settings

    bench.window.opening.open(flower(tmp_path, OPRGB))
    bench.settle()
    bench.window.printing.export(tmp_path / "print.png", Settings())
    bench.settle()
    again = open_photo(tmp_path / "print.png")
    assert again.source.space is OPRGB
    found = colour.to_light(again.source.window(Rect(2, 2, 1, 1)).ravel())
    assert np.abs(found - colour.to_light(np.array([60000, 9000, 12000]) / 65535)).max() < 1e-3
    (width,) = struct.unpack(">I", (tmp_path / "print.png").read_bytes()[16:20])
    assert width == 90
