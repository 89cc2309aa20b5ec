"""Shared by all tests: no window system, pictures small enough to be quick."""

import functools
import gc
import hashlib
import os
import pickle
import shutil
import threading
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["LANGUAGE"] = "en"  # whatever is spoken at this machine, and whatever paper is usual there
for name in ("LC_ALL", "LC_PAPER", "LC_MEASUREMENT"):
    os.environ.pop(name, None)
os.environ["LANG"] = "C.UTF-8"
# Two processes share two cores: threads that libraries make for themselves would only wait, awake, for each other.
# Before NumPy is imported, and for every program that a test starts.
for name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"):
    os.environ.setdefault(name, "1")

import numpy as np
import pytest
from hypothesis import settings

import kyanoscript
from kyanoscript.core.kernel import library, mark
from kyanoscript.core.mend import detect
from kyanoscript.core.people import bodies, faces, networks, parts, points
from kyanoscript.core.render.prepare import prepare
from kyanoscript.core.tint import reading

# The same draws at every run; KYANOSCRIPT_LAWS=random draws others.
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("random", deadline=None)
settings.load_profile(os.environ.get("KYANOSCRIPT_LAWS", "same"))


# What takes longest, longest first: it is begun first, so that two processes end together.
LONG = ("ui/test_window.py", "test_cli.py", "core/test_surface.py", "core/test_kinds.py", "ui/test_run.py")
SLOW = (
    "test_campaign.py", "test_package.py", "test_demo_prints.py", "ui/test_picture.py", "ui/test_leaving.py",
    "core/test_laws.py", "core/test_mend.py", "files/test_recipes.py", "test_cli_citizen.py",
    "ui/test_safe.py", "ui/test_recipes_view.py", "core/test_tint.py", "ui/test_scenarios.py", "ui/test_access.py",
    "core/test_lengths.py", "ui/test_stencil_tool.py", "core/test_kernel.py", "ui/test_walkthroughs.py",
    "ui/test_dab_tool.py", "core/test_smooth.py", "core/test_faces.py", "ui/test_keeping.py", "ui/test_looking.py",
    "ui/test_colours.py", "files/test_hostile.py", "core/test_process.py", "core/test_stages.py", "files/test_large.py",
    "ui/test_process.py", "ui/test_sheet.py", "ui/test_states.py", "ui/test_strip.py", "files/test_texts_in_notes.py",
    "core/test_shared.py", "core/test_people.py", "core/test_screens.py", "files/test_sheets.py",
    "files/test_plates.py", "files/test_processes.py",
    "test_cli_process.py", "core/test_dials.py", "core/test_differ.py", "ui/test_plain.py",
    "core/test_prints_stay.py", "files/test_naming.py", "ui/test_under_the_hand.py", "core/test_mend_by_parts.py",
    "ui/test_run.py", "core/test_surface.py", "core/test_kinds.py", "ui/test_window.py", "files/test_export.py",
    "core/test_identity.py", "files/test_writers.py", "ui/test_true_colour.py", "core/test_toning.py",
    "ui/test_waits.py", "test_words.py", "ui/test_words_in_boxes.py", "files/test_room.py",
    "files/test_written_is_read.py",
)  # fmt: skip
SLOW_TESTS = (
    "test_demo_photographs_open_with_their_scripts", "test_every_pass_has_its_slip", "test_nothing_is_cut_off",
    "test_the_demo_prints_are_in_the_menu", "test_everything_that_takes_the_keyboard",
    "test_the_window_draws_itself", "test_every_parameter_can_be_asked", "test_a_wide_glow_is_a_gaussian",
    "test_every_pass_of_a_script_has_an_identity",
)  # fmt: skip


def pytest_ignore_collect(collection_path, config):
    """`make quick` does not even import what is slow."""
    return True if config.option.markexpr == "not slow" and str(collection_path).endswith(SLOW) else None


def pytest_collection_modifyitems(items):
    """Mark what `make quick` leaves out, and begin with it."""

    order = {f"tests/{name}": k for k, name in enumerate((*SLOW[:2], *LONG, *SLOW[2:]))}

    def file(item):
        return item.nodeid.partition("::")[0]

    for item in items:
        if file(item).endswith(SLOW) or item.name.startswith(SLOW_TESTS):
            item.add_marker(pytest.mark.slow)
    items.sort(key=lambda item: order.get(file(item), len(order)))


def pytest_collection_finish():
    """What was imported and collected stays: looking through it for circles, again and again, took its share."""
    gc.collect()
    gc.freeze()


@pytest.fixture(scope="session", autouse=True)
def _kernels():
    """Compile once, so that no single test pays for it."""
    prepare()


@pytest.fixture(scope="session", autouse=True)
def _looked_at_once(tmp_path_factory, worker_id):
    """What a network says depends on what it is shown alone: it is asked once for all tests of a run.

    That it is so, `core/test_mend.py` and `core/test_people.py` ask the networks themselves.
    """
    own = tmp_path_factory.getbasetemp()
    room = (own if worker_id == "master" else own.parent) / "looked-at"
    room.mkdir(exist_ok=True)

    def once(network, what):
        def asked(*shown):
            digest = hashlib.sha256(what.encode())
            for part in shown:
                digest.update(
                    part.tobytes() + str(part.shape).encode() if isinstance(part, np.ndarray) else part.encode()
                )
            file = room / f"{digest.hexdigest()}.pickle"
            if not file.exists():
                half = file.with_suffix(f".{worker_id}-{threading.get_ident()}")
                half.write_bytes(pickle.dumps(network(*shown), pickle.HIGHEST_PROTOCOL))
                half.replace(file)
            return pickle.loads(file.read_bytes())

        asked.network = network
        return asked

    detect.judged = once(detect.judged, "damage")
    reading.read_ready = once(reading.read_ready, "scene")
    looked = once(networks.run, "people")
    for module in (bodies, faces, parts, points):
        module.run = looked


@pytest.fixture(scope="session", autouse=True)
def _state_of_its_own(tmp_path_factory):
    """The log of the person at this machine, and what the program remembers, are left alone."""
    os.environ["KYANOSCRIPT_STATE"] = str(tmp_path_factory.mktemp("state"))
    os.environ["KYANOSCRIPT_CACHE"] = str(tmp_path_factory.mktemp("cache"))
    os.environ["XDG_DATA_HOME"] = str(tmp_path_factory.mktemp("data"))  # of recipes, processes, sheets


def package_lacking(place, *modules):
    """A folder for PYTHONPATH with the program as it is installed, but without the libraries of these modules."""
    source, package = Path(kyanoscript.__file__).parent, place / "package" / "kyanoscript"
    kernel = package / "core" / "kernel"
    ready = kernel / "ready" / library.level()
    ready.mkdir(parents=True)
    for here, there, apart in ((source, package, "core"), (source / "core", kernel.parent, "kernel")):
        for part in here.iterdir():
            if part.name != apart:
                (there / part.name).symlink_to(part)
    for part in (source / "core" / "kernel").glob("*.py"):
        shutil.copy(part, kernel)  # not linked to: libraries are looked for beside it
    for module in mark.modules():
        if module.startswith("kyanoscript.") and module not in modules:
            shutil.copy(library.find(mark.library_name(module)), ready)
    return place / "package"


@pytest.fixture
def colourful():
    """A picture with every kind of colour: gradients, saturated patches, neutrals, pure black and white."""
    return make_colourful(64, 96)


def make_colourful(height, width, dtype=np.uint8):
    """Gradients of hue and brightness, a gray ramp, a few pure colours; ``(h, w, 3)``."""
    top = np.iinfo(dtype).max
    return np.rint(_made_colourful(height, width) * top).astype(dtype)


@functools.cache
def _made_colourful(height, width):
    y, x = np.mgrid[0:height, 0:width] / (max(height, width) - 1)
    planes = np.stack([0.5 + 0.5 * np.cos(6.3 * (x + k / 3)) * (1 - y * 0.5) for k in range(3)], -1)
    planes[: height // 6] = (np.arange(width) / (width - 1))[None, :, None]
    pure = [(0, 0, 0), (1, 1, 1), (1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (0, 1, 1), (1, 0, 1)]
    step = width // len(pure)
    for k, ink in enumerate(pure):
        planes[-height // 6 :, k * step : (k + 1) * step] = ink
    return planes


def planes_of(pixels):
    """Float planes ``(3, h, w)`` of integer pixels."""
    return np.ascontiguousarray(np.moveaxis(pixels / np.iinfo(pixels.dtype).max, 2, 0), np.float32)


@pytest.fixture(scope="session")
def cmyk():
    """A profile for four inks that others made: Ghostscript's, which set-up installs."""
    path = Path("/usr/share/color/icc/ghostscript/default_cmyk.icc")
    if not path.exists():
        pytest.skip("libgs9-common is not installed")
    return path
