"""The brush of a pass that is drawn, as fields set it."""

from __future__ import annotations

from typing import Any

from kyanoscript.ui.fields.target import Chosen


class Brush(Chosen):
    """The brush of a pass that is drawn: its values are nobody's document, so there is nothing to undo."""

    def __init__(self, tool: Any) -> None:
        super().__init__(tool.desk)
        self.tool = tool

    def thing(self) -> Any:
        return self.tool.brush

    def set(self, label: str, merge: str = "", **values: object) -> None:
        self.tool.set_brush(**values)

    def begin(self, label: str) -> None:
        self._before = self.tool.brush

    def commit(self) -> None:
        pass

    def abort(self) -> None:
        self.tool.set_brush(**dict(self._before))
