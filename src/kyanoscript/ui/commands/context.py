"""What every controller and view is given."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from PySide6.QtWidgets import QWidget

from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Jobs
from kyanoscript.ui.service.service import RenderService


@dataclass
class Folders:
    """Where files are looked for first."""

    files: Path = field(default_factory=Path.home)  # photographs and scripts
    prints: Path | None = None  # where the last print was written


@dataclass(frozen=True)
class Context:
    """The parts that everything in the window shares."""

    desk: Desk
    service: RenderService
    jobs: Jobs
    foot: Foot
    easel: Easel
    top: QWidget  # what dialogs stand over
    folders: Folders = field(default_factory=Folders)
