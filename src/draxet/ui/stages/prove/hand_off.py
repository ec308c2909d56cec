"""Prove: findings, then the file for the machine, read back and compared."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QGridLayout, QProgressBar

from draxet.files import reason
from draxet.geometry.arrays import NDArray
from draxet.job.findings import Gravity
from draxet.job.machine_kinds import counts_on
from draxet.job.picture_records import Picture
from draxet.job.records import Job
from draxet.job.sheet_edits import hand_off_noted
from draxet.job.sides import Run, only, runs_of
from draxet.leaving import LEAVING_KINDS, leave
from draxet.leaving.leaving_kind import DRAWN_FOR, Leaving, LeavingKind, LeftTogether, LookSettings
from draxet.progress import Progress
from draxet.ui.controls.chooser import ask_where
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.questions import ask
from draxet.ui.controls.slip_parts import button, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Prompt
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.prove.leaving_settings import LeavingSettings, told_of
from draxet.ui.stages.prove.read_back_rows import ReadBackRows
from draxet.ui.stages.purpose_choice import PurposeChoice, set_purpose
from draxet.ui.stages.setting_rows import SettingRows
from draxet.ui.stages.slip import Slip

__all__ = ["HandOffSlip", "HandOffTool"]

_LANE = "leaving"


class HandOffTool(PickTool):
    """Contours can be chosen and looked at."""

    title = "Hand off"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.share, self.words = 0.0, ""
        """How far what leaves is."""

    @property
    def busy(self) -> bool:
        return self._session.workers.busy(_LANE)

    def prompt(self) -> Prompt:
        if not self.busy:
            return super().prompt()
        return Prompt(
            f"Hand off: {self.words} … {round(100 * self.share)} %", keys=(("Esc", "stop it"),)
        )

    def stop(self) -> None:
        """Leave off writing; what was there before stays."""
        self._session.workers.cancel(_LANE)
        self._session.tool_changed.emit()
        self._session.messages.announced.emit("Nothing was handed off: it was stopped")

    def cancel(self) -> bool:
        if not self.busy:
            return super().cancel()
        self.stop()
        return True


class HandOffSlip(Slip):
    """What to look at first, the kinds of files, and what was read back."""

    def __init__(self, session: Session, tool: HandOffTool) -> None:
        super().__init__(
            session,
            "Hand off",
            "Contours with an operation leave, in millimetres; as it looks, all of them. Everything is read back before it takes the place of an older file.",
        )
        self._tool = tool
        self._findings = FindingRows(session, "Nothing to look at: ready to leave.")
        self.ticks = {kind.key: QCheckBox(kind.words) for kind in LEAVING_KINDS}
        for key, box in self.ticks.items():
            box.setChecked(key in self.settings.kinds)
            box.clicked.connect(self._ticked)
        self._sheet = label("", "quiet", wrap=True)
        self.side = Choice([("face", "the face"), ("back", "the back")], "Side of the sheet")
        self._side = "face"
        self.side.chosen.connect(self._set_side)
        self.go = button("Hand off …", "main", self._ask)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.stop = button("Cancel", "plain", tool.stop)
        self.purpose = PurposeChoice(session)
        self.add(label("This job is"), self.purpose, self._findings)
        self.add(label("What leaves", "section"))
        self._pairs = QGridLayout()
        self._pairs.setHorizontalSpacing(2)
        self.body.addLayout(self._pairs)
        self.asked = [self._rows_of(kind) for kind in (*_asked_types(), LeavingSettings)]
        self.add(*(rows for _, rows in self.asked), self._sheet, self.side)
        self.as_drawing = button(
            "It is a drawing", "plain", lambda: set_purpose(session, "drawing")
        )
        self.foot.add(self.bar, self.go, self.as_drawing, self.stop)
        self._read_back = ReadBackRows(session)
        self.add(label("Read back", "section"), self._read_back)
        self._offered = list[str]()
        self.refresh()

    def control(self, name: str) -> Any:
        """The control of what is asked under a name."""
        return next(rows[name] for _, rows in self.asked if name in rows.rows)

    def _rows_of(self, kind: type) -> tuple[type, SettingRows]:
        """Rows for a record of what is asked."""
        record = self._set(kind)

        def change(name: str, value: object, gesture: object = None) -> None:
            setattr(record, name, value)
            self.refresh()

        return kind, SettingRows(self.session, record, change)

    def _set(self, kind: type) -> Any:
        name = "leaving" if kind is LeavingSettings else f"leaving {kind.__name__}"
        return self.session.desk.settings(name, kind)

    def _set_side(self, key: str) -> None:
        self._side = key
        self.refresh()

    def _sides(self) -> list[bool]:
        return [
            run.back for run in runs_of(self.session.job) if run.sheet == self.session.job.sheet
        ]

    @property
    def back(self) -> bool:
        """Whether the back is handed off: where it was chosen, or where nothing is worked from the
        face."""
        sides = self._sides()
        return (
            (self._side == "back") in sides and self._side == "back"
            if len(sides) > 1
            else sides == [True]
        )

    @property
    def looks(self) -> bool:
        """Whether all that is drawn leaves, which signs nothing."""
        return bool(self._set(LookSettings).is_art)

    @property
    def settings(self) -> LeavingSettings:
        return self.session.desk.settings("leaving", LeavingSettings)

    @property
    def kinds(self) -> list[LeavingKind[Any]]:
        """Those that are ticked."""
        return [kind for kind in self._kinds_of_job() if kind.key in self.settings.kinds]

    def _kinds_of_job(self) -> list[LeavingKind[Any]]:
        """Those that are offered of what the job is for, and of what its machine makes."""
        job = self.session.job
        return [
            kind
            for kind in LEAVING_KINDS
            if kind.offered(job.machine_of(job.sheet))
            and (job.is_worked or LookSettings in kind.asks)
        ]

    def _ticked(self) -> None:
        self.settings.kinds = tuple(key for key, box in self.ticks.items() if box.isChecked())
        self.refresh()

    @property
    def run(self) -> Run:
        return Run(self.session.job.sheet, self.back)

    def _refused(self) -> bool:
        """Whether nothing can leave as it is asked for; why is said."""
        if self.settings.only and not self.session.selection.ids:
            self.session.messages.refused.emit(
                "Nothing is chosen: choose the contours that are to leave, or untick that only the chosen ones do."
            )
        elif not self.kinds:
            self.session.messages.refused.emit("Tick what is to leave first.")
        else:
            return False
        return True

    def _ask(self) -> None:
        """Where to, and by what name; what is there already is told by the names that it really
        has."""
        job, kinds = self.session.job, self.kinds
        if self._refused():
            return
        folder = self.session.document.path.parent if self.session.document.path else Path.home()
        name = job.name if len(job.sheets) == 1 else f"{job.name} - {job.sheet.name}"
        name = (f"{name} - back" if self.back else name).replace("/", "-")
        leaving = Leaving(job, self.run)
        ending = kinds[0].path_for(leaving, folder, name).suffix
        path = ask_where(
            self,
            "Hand off",
            folder / f"{name}{ending}",
            ending.removeprefix("."),
            "The first of the files" if len(kinds) > 1 else kinds[0].words,
        )
        if path is None:
            return
        paths = [kind.path_for(leaving, path.parent, path.stem) for kind in kinds]
        there = [each.name for each in paths if each.exists() and each != path]
        if not there or ask(
            self,
            "Replace them?",
            f"{', '.join(there[:4])}{' and others' if len(there) > 4 else ''} {'is' if len(there) == 1 else 'are'} there already.",
            "",
            (("replace", "Replace"),),
            "Cancel",
        ):
            self.leave_all(path.parent, path.stem)

    def leave_all(self, folder: Path, name: str) -> None:
        """Write everything that is ticked, each read back, by a worker."""
        session, kinds = self.session, self.kinds
        if self._refused():
            return
        stops = [finding for finding in session.looked.findings if finding.gravity is Gravity.STOPS]
        if stops and any(kind.runs for kind in kinds):
            session.messages.refused.emit(
                f"No program leaves beside a fault: {stops[0].words}. Mend it first, or untick the program."
            )
            return
        session.messages.leaving.emit()
        whole, run, tool = session.job, self.run, self._tool
        chosen, looks = session.selection.ids if self.settings.only else None, self.looks

        def done(left: LeftTogether) -> None:
            session.left = left
            noted = [
                file.file
                for file, kind in zip(left.files, kinds, strict=False)
                if left.matches and self._signs(kind, whole, looks=looks)
            ]
            same = session.job.work_digest(run.sheet) == left.work
            signed = bool(noted) and chosen is None and same
            if signed:
                session.edit(
                    "hand off",
                    hand_off_noted(session.job, ", ".join(noted), run.sheet.id, back=run.back),
                )
            session.tool_changed.emit()
            tell = session.messages.announced if left.matches else session.messages.refused
            tell.emit(told_of(left, signed=signed or not (whole.is_worked and _sign(kinds))))

        def failed(error: Exception) -> None:
            words = reason(error)
            session.tool_changed.emit()
            session.messages.refused.emit(f"{words[:1].upper()}{words[1:]}.")

        def stepped(share: float, words: str) -> None:
            tool.share, tool.words = share, words
            session.tool_changed.emit()

        work = self._work(whole, chosen, run, kinds, folder, name)
        tool.share, tool.words = 0.0, "beginning"
        session.workers.run(_LANE, work, done, failed, stepped)
        session.tool_changed.emit()

    def _work(
        self,
        job: Job,
        chosen: frozenset[str] | None,
        run: Run,
        kinds: list[LeavingKind[Any]],
        folder: Path,
        name: str,
    ) -> Callable[[Progress], LeftTogether]:
        """What a worker does to write files of these kinds."""
        store, findings = self.session.pictures, self.session.looked.findings
        settings = {each: replace(self._set(each)) for each in _asked_types()}

        def pixels(picture: Picture, report: Progress) -> NDArray[Any]:
            return store.of(picture, report).levels[0]

        def work(report: Progress) -> LeftTogether:
            asked = job if chosen is None else only(job, chosen)
            return leave(
                Leaving(asked, run, settings, findings, pixels=pixels, report=report),
                kinds,
                folder,
                name,
            )

        return work

    @staticmethod
    def _signs(kind: LeavingKind[Any], job: Job, *, looks: bool) -> bool:
        """Whether a job counts as handed off by a kind of file."""
        drawn = LookSettings in kind.asks
        return kind.signs and not (looks and drawn) if job.is_worked else drawn

    def _follow_purpose(self) -> None:
        """Let what leaves be as what the job is for asks for it, once that is said."""
        purpose, settings = self.session.job.purpose, self.settings
        if purpose != settings.purpose:
            settings.purpose = purpose
            self._set(LookSettings).drawn = DRAWN_FOR[purpose]
            kept = self.kinds or self._kinds_of_job()[:1]
            settings.kinds = tuple(dict.fromkeys([*settings.kinds, *(k.key for k in kept)]))
        for kind, rows in self.asked:
            rows.show_of(self._set(kind))

    def refresh(self) -> None:
        job, busy = self.session.job, self._tool.busy
        self._follow_purpose()
        self.purpose.show_job(job)
        self.as_drawing.setVisible(bool(job.contours) and not (job.operations or self.looks))
        self._findings.show_findings(self.session.looked.findings)
        for part in (self.bar, self.stop):
            part.setVisible(busy)
        self.bar.setValue(round(100 * self._tool.share))
        self.foot.offer(self.go, f"Leaves as {_listed(self.kinds)}", self._why_not())
        machine = job.machine_of(job.sheet).traits
        self._lay_ticks([kind.key for kind in self._kinds_of_job()])
        for key, box in self.ticks.items():
            box.setChecked(key in self.settings.kinds)
        wanted = {each for kind in self.kinds for each in kind.asks} | {LeavingSettings}
        for kind, rows in self.asked:
            rows.setVisible(kind in wanted)
            is_asked = getattr(self._set(kind), "is_asked", lambda setting: True)
            for setting, row in rows.rows.items():
                row.setVisible(counts_on(machine, setting) and is_asked(setting))
        self._refresh_sheet()
        self._read_back.refresh()

    def _lay_ticks(self, offered: list[str]) -> None:
        """Boxes to tick for these kinds, two in a row."""
        if self._offered == offered:
            return
        self._offered = offered
        for box in self.ticks.values():
            self._pairs.removeWidget(box)
        for k, key in enumerate(offered):
            self._pairs.addWidget(self.ticks[key], k // 2, k % 2)
        for key, box in self.ticks.items():
            box.setVisible(key in offered)

    def _why_not(self) -> str:
        """Why nothing can be handed off now."""
        if self._tool.busy:
            return f"{self._tool.words[:1].upper()}{self._tool.words[1:]} …"
        if self.looks and self.session.job.contours:
            return ""
        if not self.session.job.operations:
            return "Nothing is worked yet: give contours an operation in Make, or say that it is a drawing or a picture"
        return ""

    def _refresh_sheet(self) -> None:
        job = self.session.job
        left = [sheet.name for sheet in job.sheets_that_leave if not job.is_handed_off(sheet)]
        sides = self._sides()
        self.side.setVisible(len(sides) > 1)
        self.side.set_value(self._side)
        self._sheet.setVisible(len(job.sheets) > 1 or True in sides)
        mirrored = (
            "The back leaves mirrored: turn the sheet over, left to right. " if self.back else ""
        )
        self._sheet.setText(
            f"For {job.sheet.name}. {mirrored}"
            + (f"Not handed off yet: {', '.join(left)}." if left else "All sheets are handed off.")
        )


def _asked_types() -> list[type]:
    """The records of what kinds of files ask, each once, in the order of the kinds."""
    return list(dict.fromkeys(each for kind in LEAVING_KINDS for each in kind.asks))


def _sign(kinds: Sequence[LeavingKind[Any]]) -> bool:
    return any(kind.signs for kind in kinds)


def _listed(kinds: Sequence[LeavingKind[Any]]) -> str:
    """What leaves, in few words."""
    names = [kind.words for kind in kinds]
    return (
        f"{', '.join(names[:3])}{f' and {len(names) - 3} more' if len(names) > 3 else ''}"
        or "nothing: tick what is to leave"
    )
