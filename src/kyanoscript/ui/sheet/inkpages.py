"""The pages of plates and of the negative in the Sheet view."""

from __future__ import annotations

from dataclasses import dataclass

from kyanoscript.core.paper.presses import GAINS, OWN, PLAIN, PRESSES, press_named
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.sheet.furnished import SheetFurniture
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.quiet import show_choice

_DOTTED = ("round", "elliptical", "line")


@dataclass(frozen=True)
class Known:
    """What the pages know beside the sheet."""

    inks: tuple[str, ...] = ()  # of the print
    lines: tuple[str, ...] = ()  # about each plate
    processes: tuple[tuple[str, str], ...] = ()  # names, and what is known of each
    remarks: tuple[str, ...] = ()  # what should be known of plates, or of the negative

    def built(self, page: str, sheet: Sheet) -> object:
        """What a page is built anew for."""
        if page == "Plates":
            return sheet.plates.screen, len(self.inks)
        return (sheet.film.process, sheet.film.layers, len(self.inks), self.processes) if page == "Negative" else None


def plates(page: SheetFurniture, sheet: Sheet, known: Known) -> None:
    """The plates of the print."""
    if not known.inks:
        words = "This print has no inks. Add the pass Inks or Quad-tone on the Bench: each of its inks is a plate here."
        page.add(furniture.wrapped(words))
        return
    page.facts = furniture.wrapped("")
    page.add(page.facts)
    _press(page, len(known.inks))
    page.show_value("trap", "knock_out", "screen")
    if sheet.plates.screen in _DOTTED:
        page.show_value("ruling", "angle")
    if sheet.plates.screen == "grain":
        page.show_value("grain")
    if sheet.plates.screen != "none":
        page.show_value("device")
    page.add(page.remarks)
    page.rule()
    page.main("plates", "Write the plates…", "TIFF or PDF, a page for each ink; or a folder, a file each")


def _press(page: SheetFurniture, inks: int) -> None:
    """What becomes of ink: as on presses that are usual, or by values of one's own, which are shown only then."""
    press = page.list("press", "Press", "What becomes of ink on its way to the paper")
    for key, usual in PRESSES.items():
        press.addItem(spoken(usual.label), key)
    press.addItem(spoken("values of one's own"), OWN)
    values = (*GAINS[:inks], "yule_nielsen", "most_ink")
    page.show_value(*values)
    opened = False

    def take(at: int) -> None:
        nonlocal opened
        key = press.itemData(at)
        opened = key == OWN
        if opened:
            show()
        else:
            page.changed.emit(tr("Press: {at}", at=press.itemText(at)), PRESSES[key].values())

    def show() -> None:
        key = OWN if opened else press_named({name: page.value(name) for name in PRESSES[PLAIN].values()})
        show_choice(press, press.findData(key))
        for name in values:
            page.sliders[name].setVisible(key == OWN)

    press.activated.connect(take)
    page.controls.shows.append(show)


def negative(page: SheetFurniture, sheet: Sheet, known: Known) -> None:
    """The negative of the print for a process."""
    process = page.list(
        "process", "Process", "Whose curve the negative has; the curve of another paper is worse than none"
    )
    process.addItem(spoken("as it is: no curve"), "")
    for name, _ in known.processes:
        process.addItem(spoken(name), name)
    if sheet.film.process and process.findData(sheet.film.process) < 0:
        process.addItem(spoken(sheet.film.process), sheet.film.process)
    process.setCurrentIndex(max(0, process.findData(sheet.film.process)))
    process.currentIndexChanged.connect(
        lambda k: page.changed.emit(tr("Process: {k}", k=process.itemText(k)), {"process": process.itemData(k)})
    )
    about = dict(known.processes).get(sheet.film.process, "")
    if about:
        page.add(furniture.wrapped(about))
    page.add(furniture.wrapped("The film is the sheet: its size and place are those of the Paper and Print pages."))
    page.add(page.remarks)
    page.rule()
    page.main("negative", "Write the negative…", "TIFF, PNG or PDF at its exact size, mirrored, with its rim")
    if len(known.inks) > 1:
        _layers(page, sheet, known)
    page.add(page.word("expose", "Expose it in the bench darkroom", "A stand-in: shows the dried print on the sheet"))


def _layers(page: SheetFurniture, sheet: Sheet, known: Known) -> None:
    """A process for each ink, to be exposed one after another."""
    names = [*sheet.film.layers]
    names += [""] * (len(known.inks) - len(names))

    def take(k: int, name: str) -> None:
        made = [*names[:k], name, *names[k + 1 : len(known.inks)]]
        while made and not made[-1]:
            made.pop()
        page.changed.emit(tr("Ink {k}: {name}", k=k + 1, name=name or "the process above"), {"layers": tuple(made)})

    for k in range(len(known.inks)):
        box = page.list(f"layer {k}", tr("Ink {k}", k=k + 1), "Its process")
        box.addItem(spoken("the process above"), "")
        for name, _ in known.processes:
            box.addItem(spoken(name), name)
        box.setCurrentIndex(max(0, box.findData(names[k])))
        box.currentIndexChanged.connect(lambda at, k=k, box=box: take(k, box.itemData(at)))
    page.add(
        page.word("negatives", "One for each ink…", "For several exposures: each ink through its process, registered")
    )
