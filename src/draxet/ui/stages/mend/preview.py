"""What would become of chosen contours is worked out off the window's thread, drawn and told before
it is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.geometry.affine import Affine
from draxet.geometry.biarcs import as_lines_and_arcs
from draxet.geometry.contour import Contour
from draxet.geometry.spans import CUBIC
from draxet.job.contour_edits import add_contours, change_contours, set_ellipse
from draxet.job.contour_records import ContourItem
from draxet.job.findings import count_words
from draxet.mend.forms import Form, fitted_form
from draxet.mend.nodes import deviation_between
from draxet.mend.part_forms import fitted_part
from draxet.mend.simplify import simplified, spaced_nodes
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.controls.slip_parts import button, label, side_by_side
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool

__all__ = [
    "Change",
    "PreviewRows",
    "form_of",
    "lines_and_arcs",
    "part_form_of",
    "simpler",
    "wider_spaced",
]


@record(frozen=True)
class Change:
    """What contours become, and which of them are ellipses; how far anything comes to lie off, in
    mm; `why_not` where nothing does; what is `added` to them."""

    words: str
    contours: Mapping[str, Contour] = field(default_factory=dict)
    ellipses: Mapping[str, Affine] = field(default_factory=dict)
    off: float = 0.0
    why_not: str = ""
    added: tuple[Form, ...] = ()


Work = Callable[[Sequence[ContourItem], Progress], Change]


def simpler(within: float) -> Work:
    """Fewer nodes within a tolerance."""

    def work(items: Sequence[ContourItem], report: Progress) -> Change:
        found, off = {}, 0.0
        for number, item in enumerate(items):
            report(number / len(items), "simplifying")
            made, away = simplified(item.contour, within)
            if made is not item.contour:
                found[item.id], off = made, max(off, away)
        return Change(
            "simplify",
            found,
            {},
            off,
            ""
            if found
            else "Nothing is simpler within that; allow more, or choose contours with more nodes.",
        )

    return work


def wider_spaced(spacing: float) -> Work:
    """No two nodes nearer than a spacing."""

    def work(items: Sequence[ContourItem], report: Progress) -> Change:
        found, off = {}, 0.0
        for number, item in enumerate(items):
            report(number / len(items), "simplifying")
            made = spaced_nodes(item.contour, spacing)
            if made is not item.contour:
                found[item.id], off = (
                    made,
                    max(
                        off,
                        deviation_between(made, item.contour),
                        deviation_between(item.contour, made),
                    ),
                )
        return Change(
            "space nodes wider",
            found,
            {},
            off,
            "" if found else "No two nodes are nearer to each other than that.",
        )

    return work


def lines_and_arcs(within: float) -> Work:
    """Curves as lines and arcs."""

    def work(items: Sequence[ContourItem], report: Progress) -> Change:
        found, off = {}, 0.0
        for number, item in enumerate(items):
            report(number / len(items), "fitting arcs")
            if (item.contour.kinds == CUBIC).any():
                found[item.id] = as_lines_and_arcs(item.contour, within)
                off = max(off, deviation_between(item.contour, found[item.id]))
        return Change(
            "curves to lines and arcs",
            found,
            {},
            off,
            "" if found else "The chosen contours have no curves but arcs already.",
        )

    return work


def form_of(form: str) -> Work:
    """A circle, an ellipse, a line or an arc in place of each."""

    def work(items: Sequence[ContourItem], report: Progress) -> Change:
        found, ellipses, off = {}, {}, 0.0
        for item in items:
            made = fitted_form(item.contour, form)
            if made is not None:
                found[item.id], off = made.contour, max(off, made.off)
                if made.ellipse is not None:
                    ellipses[item.id] = made.ellipse
        article = "an" if form[0] in "aeiou" else "a"
        wants = "closed contours" if form in ("circle", "ellipse") else "open contours"
        return Change(
            f"make it {article} {form}",
            found,
            ellipses,
            off,
            ""
            if found
            else f"No {form} comes near to what is chosen; {wants} of some size are wanted.",
        )

    return work


def part_form_of(form: str, nodes: Mapping[str, Sequence[int]]) -> Work:
    """A line or an arc in place of the part between nodes, or the whole circle or ellipse that it is
    part of."""

    def work(items: Sequence[ContourItem], report: Progress) -> Change:
        found, added, off = dict[str, Contour](), list[Form](), 0.0
        for item in items:
            made = fitted_part(item.contour, nodes.get(item.id, ()), form)
            if made is None:
                continue
            fitted, is_other = made
            off = max(off, fitted.off)
            if is_other:
                added.append(fitted)
            else:
                found[item.id] = fitted.contour
        article = "an" if form[0] in "aeiou" else "a"
        why = f"No {form} comes near to that part; choose nodes along it."
        words = f"{article} {form} fitted to a part"
        return Change(words, found, {}, off, "" if found or added else why, tuple(added))

    return work


class PreviewRows(QWidget):
    """Nothing until something is proposed; then what it would do, and two buttons. `shown` holds
    the contours to draw."""

    def __init__(self, session: Session, tool: Tool, length: Callable[[float], str]) -> None:
        super().__init__()
        self._session, self._length = session, length
        self._change = Derived[Change | None](
            session,
            "mend preview",
            None,
            "This cannot be done",
            tool=tool,
            keeps=False,
            told=self._told,
        )
        self._before: Sequence[ContourItem] = ()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        self.words = label("", "brass", wrap=True)
        self.do = button("Do it", "main", self.take)
        self.leave = button("Leave it", "plain", self.drop)
        rows.addWidget(self.words)
        rows.addWidget(side_by_side(self.do, self.leave))
        self.hide()

    @property
    def change(self) -> Change | None:
        """What is proposed for the job as it is."""
        by = self._change.goes_by
        is_so = by is not None and by[0] is self._session.layout.contours
        return self._change.value if is_so else None

    @property
    def outlines(self) -> tuple[Contour, ...]:
        change = self.change
        if change is None:
            return ()
        return (*change.contours.values(), *(form.contour for form in change.added))

    def propose(self, work: Work) -> None:
        """Work out what would become of the chosen contours."""
        session, items = self._session, self._session.selection.items
        if not items:
            session.messages.refused.emit("Choose contours first.")
            return
        self._before = items
        self._change.ask((session.layout.contours, work), lambda report: work(items, report))

    def _told(self) -> None:
        change = self.change
        if change is not None and change.why_not:
            self._change.forget()
            self._session.messages.refused.emit(change.why_not)
        elif change is not None:
            changed = [item for item in self._before if item.id in change.contours]
            before = sum(len(item.contour.nodes) for item in changed)
            after = sum(len(contour.nodes) for contour in change.contours.values())
            become = f"{count_words(before, 'node')} become {after}; " if before else ""
            self.words.setText(
                f"{change.words[:1].upper()}{change.words[1:]}: {become}nothing lies farther off than {self._length(change.off)}."
            )
        self.refresh()
        self._session.marks_changed.emit()

    def take(self) -> None:
        """Do what is proposed."""
        change, session = self.change, self._session
        if change is None:
            return
        self.drop()
        job = change_contours(
            session.job,
            {k: contour for k, contour in change.contours.items() if k not in change.ellipses},
        )
        for contour_id, laid in change.ellipses.items():
            job = set_ellipse(job, contour_id, laid)
        for form in change.added:
            job = add_contours(job, [form.contour])
            if form.ellipse is not None:
                job = set_ellipse(job, job.contours[-1].id, form.ellipse)
        session.edit(change.words, job)
        count, how = (
            (len(change.added), "made") if change.added else (len(change.contours), "changed")
        )
        session.messages.announced.emit(
            f"{count_words(count, 'contour')} {how}, nothing farther off than {self._length(change.off)}"
        )

    def drop(self) -> None:
        """Leave everything as it is."""
        self._change.forget()
        self.refresh()
        self._session.marks_changed.emit()

    def refresh(self) -> None:
        """What was proposed for a job that is no more is not shown."""
        self.setVisible(self.change is not None)
