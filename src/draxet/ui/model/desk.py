"""The desk: the stage that is open, how the work is looked at, and settings that are kept with the
job beside the job itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.job.codec import read_record, written
from draxet.job.codec_parts import CodecError, Parts
from draxet.job.ranges import OfPicture, Share, Size, Within
from draxet.job.value_faults import fault_of
from draxet.record import record
from draxet.ui.model.stage import Stage

__all__ = ["Desk", "KeptDesk", "read_desk"]

_Kept = TypeVar("_Kept")


@record(frozen=True)
class KeptDesk:
    """How the desk was left: the open `stage`, the `view` (its middle in job space and its zoom, in
    pixels a mm), the pictures' `strengths` stage by stage, the picture in hand, and the arrow keys'
    step in mm."""

    stage: Annotated[int, Within(1, len(Stage))] = 1
    view: (
        tuple[
            Annotated[float, Within(-1e8, 1e8)],
            Annotated[float, Within(-1e8, 1e8)],
            Annotated[float, Within(1e-4, 1e5)],
        ]
        | None
    ) = None
    strengths: tuple[Share, ...] = tuple(stage.strength for stage in Stage)
    picture: OfPicture = ""
    nudge_mm: Size = 1.0


class Desk(QObject):
    """How the work lies before one."""

    stage_changed = pyqtSignal()
    view_changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.stage = Stage.GATHER
        self.strengths = {stage: stage.strength for stage in Stage}
        self.view: tuple[float, float, float] | None = None
        self.nudge_mm = 1.0
        self.nudge_gesture: object = None
        """The same for all moves of one arrow key that is held."""
        self.ink_below: float | None = None
        self.shows_inks = True
        """Whether contours are shown filled with their colour, and lines as broad as they are."""
        self.shows_falls = False
        """Whether what falls is shown whatever tool is in hand."""
        self.beside = False
        """Whether pictures are shown beside the contours; where they lie does not change."""
        self._settings: dict[str, Any] = {}
        self._settings_read: Mapping[str, Any] = {}

    def begin(self, kept: Mapping[str, Any]) -> KeptDesk:
        """Be as it was left, and say nothing of it yet; returns how that was."""
        laid, tools = read_desk(kept), kept.get("tools")
        self.stage, self.nudge_mm = Stage.numbered(laid.stage), laid.nudge_mm
        self.strengths = {stage: stage.strength for stage in Stage} | dict(
            zip(Stage, laid.strengths, strict=False)
        )
        self.ink_below, self.beside = None, False
        self._settings, self._settings_read = {}, tools if isinstance(tools, dict) else {}
        return laid

    def kept(self, picture_id: str) -> dict[str, Any]:
        """How it is left, with a picture in hand, as what JSON can hold."""
        strengths = tuple(self.strengths[stage] for stage in Stage)
        left = KeptDesk(int(self.stage), self.view, strengths, picture_id, self.nudge_mm)
        kept = {name: written(type(each), each, Parts()) for name, each in self._settings.items()}
        return {**written(KeptDesk, left, Parts()), "tools": {**self._settings_read, **kept}}

    def settings(self, name: str, kind: type[_Kept]) -> _Kept:
        """A tool's settings (a record with a default for every field), kept with the job from one
        time in hand to the next."""
        if name not in self._settings:
            self._settings[name] = _read_kept(kind, self._settings_read.get(name, {}))
        found: _Kept = self._settings[name]
        return found

    def has_kept(self, name: str) -> bool:
        """Whether a tool's settings were kept with the job."""
        return name in self._settings or name in self._settings_read

    def keep(self, name: str, record: object) -> None:
        """Other settings in the place of a tool's, where those are a record that cannot change."""
        self._settings[name] = record

    @property
    def strength(self) -> float:
        return self.strengths[self.stage]

    def set_strength(self, strength: float) -> None:
        self.strengths[self.stage] = strength
        self.view_changed.emit()

    def set_beside(self, beside: bool) -> None:
        self.beside = beside
        self.view_changed.emit()

    def show_ink(self, below: float | None) -> None:
        """Show what is darker than `below` as ink over the picture in hand, or nothing."""
        self.ink_below = below
        self.view_changed.emit()

    def show_inks(self, shown: bool) -> None:
        """Show fills and line widths, or contours alone."""
        self.shows_inks = shown
        self.view_changed.emit()


def read_desk(words: Mapping[str, Any]) -> KeptDesk:
    return _read_kept(KeptDesk, dict(words))


def _read_kept(kind: type[_Kept], words: Any) -> _Kept:
    """A record of settings as it was kept; with its defaults where that is damaged."""
    try:
        found = read_record(kind, words, Parts(), "desk", lambda what, why: None, fault_of)
        return found if not fault_of(kind, found, "desk") else kind()
    except (CodecError, RecursionError):
        return kind()
