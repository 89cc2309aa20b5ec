"""What is asked for an edition: its photographs, what they are printed through and onto, where to, and by whom."""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import PICTURES
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.files.kept.scriptfile import SUFFIX, read_script
from kyanoscript.files.kept.trust import outside
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.edition.page import Offer
from kyanoscript.ui.edition.series import Series
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.widgets.naming import Entry as Line
from kyanoscript.ui.widgets.naming import Naming

_BENCH, _STATE, _FILE, _RECIPE = "bench", "state", "file", "recipe"
LEFT_OUT = "The script on the bench has pictures that were left out; an edition would use them. Take them off there"


def left_out(desk: Desk, script: Script) -> bool:
    """Whether a script names pictures that somebody did not want to be used."""
    pictures = desk.pictures
    return pictures is not None and any(file in pictures.refused for file in pictures.files(script))


class Setup(QObject):
    """Asks, and changes the edition."""

    def __init__(
        self, context: Context, book: Book, recent: Callable[[], Sequence[str]], series: Series, beside: QWidget
    ) -> None:
        super().__init__(series)
        self.context, self._book, self._recent, self.series, self._beside = context, book, recent, series, beside
        self.naming: Naming | None = None
        self.menu: QMenu | None = None

    # Photographs

    def ask_folder(self) -> None:
        """Every photograph of a folder."""
        start = str(self.context.folders.files)
        name = QFileDialog.getExistingDirectory(self.context.top, spoken("A folder of photographs"), start)
        if name:
            self.add([Path(name)])

    def ask_photographs(self) -> None:
        """Some of them."""
        start, kinds = str(self.context.folders.files), tr("Photographs ({pictures});;All files (*)", pictures=PICTURES)
        names, _ = QFileDialog.getOpenFileNames(self.context.top, spoken("Photographs"), start, kinds)
        if names:
            self.add([Path(name) for name in names])

    def add(self, named: Sequence[Path]) -> None:
        """Photographs and folders; a script that is among them is what they are printed through."""
        scripts = [path for path in named if path.suffix.lower() in (SUFFIX, ".json")]
        others = [path for path in named if path not in scripts]
        if scripts:
            self._read_script(scripts[0])
        if others:
            self.series.add(others)

    def ask_recent(self) -> None:
        """What was opened lately, in a menu."""
        photo = self.context.desk.photo
        bench = [str(photo.path)] if photo is not None else []
        recent = [name for name in self._recent() if Path(name).suffix.lower() not in (SUFFIX, ".json")]
        entries = {Path(name).name: [Path(name)] for name in dict.fromkeys([*bench, *recent])}
        if not entries:
            self.context.foot.say("Nothing was opened lately")
            return
        self._pop_up({name: functools.partial(self.add, named) for name, named in entries.items()})

    def ask_order(self) -> None:
        """In which they stand."""
        series = self.series
        entries = series.edition.entries
        self._pop_up({
            "By name": lambda: series.in_order("name"),
            "By time": lambda: series.in_order("time"),
            "Turned round": lambda: series.put("Turned round", entries=tuple(reversed(entries))),
        })  # fmt: skip

    def _pop_up(self, entries: dict[str, Callable[[], object]]) -> None:
        self.menu = menu = QMenu(self._beside)
        for words, act in entries.items():
            menu.addAction(spoken(words).replace("&", "&&")).triggered.connect(lambda _=False, act=act: act())
        menu.popup(self._beside.mapToGlobal(QPoint(14, self._beside.height() - 140 - menu.sizeHint().height())))

    # Through what, onto what

    def take(self, chosen: tuple[str, object]) -> None:
        """Printed through what was chosen in the list."""
        if not chosen:
            return
        kind, value = chosen
        desk = self.context.desk
        stem = desk.file.stem if desk.file is not None else ""
        if kind == _BENCH:
            self._whence(desk.script, "the bench, as it was", stem or "bench", file=desk.file)
        elif kind == _STATE:
            state = desk.kept.find(int(str(value)))
            if state is not None:
                self._whence(
                    state.script, tr("state {title}", title=state.title), stem or "bench", state.number, desk.file
                )
        elif kind == _FILE:
            start = str(self.context.folders.files)
            name, _ = QFileDialog.getOpenFileName(
                self.context.top, spoken("A script"), start, tr("Scripts (*{suffix} *.json)", suffix=SUFFIX)
            )
            if name:
                self._read_script(Path(name))
        else:
            self._use(next(recipe for recipe in self._recipes() if recipe.word == value))

    def _whence(self, script: Script, whence: str, stem: str, state: int = 0, file: Path | None = None) -> None:
        """Through a script of the bench, if nothing of it was left out there."""
        if left_out(self.context.desk, script):
            self.series.warned.emit(LEFT_OUT)
        else:
            self.series.whence(script, whence, stem, state, file)

    def _use(self, recipe: Recipe) -> None:
        words = tr("recipe {name}", name=recipe.name)
        through = Asked(recipe.on(Script()), None, recipe)
        self.series.put(tr("Through {words}", words=words), asked=through, whence=words, stem=recipe.word, state="")

    def _recipes(self) -> Sequence[Recipe]:
        return self._book.contents.recipes if self._book.contents is not None else ()

    def _read_script(self, path: Path) -> None:
        def work(_: object) -> Script:
            script = read_script(path).script
            if strange := list(outside(path, script, None)):
                raise FileError(path, tr('it uses a picture outside its own folder: {strange}', strange=strange[0]),
                                "Open it on the bench, look at it, and take it from there")  # fmt: skip
            return script

        def done(script: Script) -> None:
            self.series.whence(script, path.name, path.stem, file=path)

        self.context.jobs.run(work, Lane.READ, done=done, failed=self.series.warned)

    def lay(self, name: str | None) -> None:
        """On a sheet, or the print alone."""
        if name == "":
            return
        edition = self.series.edition
        if name is None:
            ending = "tif" if edition.ending == "pdf" else edition.ending
            self.series.put("The print alone", sheet=None, sheet_name="", ending=ending)
        else:
            sheet = dict(self.context.desk.script.sheets)[name]
            self.series.put(tr("On sheet {name}", name=name), sheet=sheet, sheet_name=name)

    def ask_more(self) -> None:
        """How the files are written."""
        edition = self.series.edition
        photo = self.context.desk.photo
        size = (photo.width, photo.height) if photo is not None else (6000, 4000)
        target = (edition.folder or Path.home()) / f"print.{edition.ending}"
        dialog = ExportDialog(self.context.top, target, size, edition.settings, None, many=True)
        if dialog.exec():
            _, settings = dialog.result_settings()
            self.series.put("How the files are written", settings=settings.with_(bits=edition.settings.bits))

    def ask_into(self) -> None:
        """Where to."""
        edition, folders = self.series.edition, self.context.folders
        start = str(edition.folder or folders.prints or folders.files)
        name = QFileDialog.getExistingDirectory(self.context.top, spoken("The folder that prints go to"), start)
        if name:
            self.series.put(tr("Into {name}", name=Path(name).name), folder=Path(name))

    def ask_cluster(self) -> None:
        """Its scheduler's address."""
        edition = self.series.edition
        line = Line("Scheduler", edition.cluster, "Of a Dask cluster", "tcp://10.0.0.5:8786", longest=300)
        self.naming = Naming(self.context.top, (line,))
        self.naming.named.connect(lambda found: self.series.put("Done by a cluster", cluster=found[0]))
        self.naming.pop_up(self._beside.mapToGlobal(QPoint(self._beside.width() + 60, 260)), above=False)

    def scripts(self) -> list[Offer]:
        """What an edition can be printed through, besides what it is."""
        desk = self.context.desk
        offers = []
        if desk.photo is not None:
            offers.append(Offer("the bench, as it is now", (_BENCH, 0)))
            offers += [
                Offer(tr("state {title}", title=state.title), (_STATE, state.number)) for state in desk.kept.states
            ]
        offers.append(Offer("a script file…", (_FILE, 0)))
        return offers + [
            Offer(tr("recipe {name}", name=recipe.name), (_RECIPE, recipe.word)) for recipe in self._recipes()
        ]

    def sheets(self) -> list[Offer]:
        """What prints can be laid on."""
        own = self.series.edition.sheet_name
        return [
            Offer(tr("sheet {name}", name=name), name) for name, _ in self.context.desk.script.sheets if name != own
        ]
