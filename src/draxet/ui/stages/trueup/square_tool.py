"""Square a photo: four corners of a rectangle of known size, found by themselves and dragged where
that is needed."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QCheckBox

from draxet.geometry.affine import Affine
from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.trueup.edge_lines import Corners, sharpened
from draxet.trueup.rectangles import find_rectangles
from draxet.trueup.square import as_taken, square_photo
from draxet.ui.controls.slip_parts import button, fact_row, field_row, label
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import CrossMark, LineMark, MagnifierMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.slip import Slip

__all__ = ["SquareSlip", "SquareTool"]

_REACH_PX = 16.0
_CARD_MM = (85.6, 53.98)


class SquareTool(Tool):
    """Holds four corners on the photo in hand, in its base pixels."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._rectangles = Derived[list[Corners] | None](
            session,
            "corners",
            None,
            "The corners could not be looked for",
            tool=self,
            keeps=False,
            told=self._found,
        )
        self.real = _CARD_MM
        self.fit_edges, self.lens = True, False
        self.corners: list[tuple[float, float]] = []
        self.residual = 0.0
        self._of = ""
        self._found_on: dict[str, tuple[list[tuple[float, float]], float]] = {}
        self._held: int | None = None
        self.number = 0
        """Which of the rectangles that were found is shown."""

    @property
    def rectangles(self) -> list[Corners]:
        """Those that were found on the photo in hand."""
        return self._rectangles.value or []

    @property
    def busy(self) -> bool:
        return self._rectangles.busy

    @property
    def picture(self) -> Picture | None:
        return self.session.selection.picture

    def prompt(self) -> Prompt:
        if self.picture is None:
            return Prompt("Square a photo: first choose a picture.", "in Gather")
        if self.picture.square is not None:
            return Prompt(
                "Square a photo: this one is squared.", "on the right it can be had as it was taken"
            )
        if self.busy:
            return Prompt("Square a photo: looking for the corners …")
        if len(self.rectangles) > 1 and self._untouched:
            return Prompt(
                f"Square a photo: is this the rectangle? ({self.number + 1} of {len(self.rectangles)})",
                "N shows the next one · drag its corners · type its two sides",
            )
        return Prompt(
            "Square a photo: drag the corners onto a rectangle of known size.",
            "then type its two sides",
        )

    def begin(self) -> None:
        self.find()

    def find(self) -> None:
        """Have the corners looked for anew."""
        picture, real = self.picture, self.real
        self.corners, self._of = [], picture.id if picture else ""
        self._rectangles.forget()
        if picture is None or picture.square is not None:
            return
        store, to_base = self.session.pictures, picture.to_base

        def work(report: Progress) -> list[Corners]:
            report(0.1, "looking for the corners")
            found = find_rectangles(store.of(picture).grey, real, report)
            if to_base == Affine():
                return found
            return [
                sharpened(store.base(picture).grey, to_base.apply(each.places)) for each in found
            ]

        self._rectangles.ask(self._goes_by, work)
        self.session.tool_changed.emit()

    @property
    def _goes_by(self) -> tuple[object, ...]:
        return self._of, *self.real

    def look(self) -> None:
        """The corners belong to one photo as it was taken: another one in hand has its own, found
        before or looked for now."""
        picture = self.picture
        if (
            picture is None
            or picture.square is not None
            or (picture.id == self._of and (self.corners or self._rectangles.known(self._goes_by)))
        ):
            return
        if picture.id in self._found_on:
            self._rectangles.forget()
            self._of, self._held = picture.id, None
            self.corners, self.residual = (
                list(self._found_on[picture.id][0]),
                self._found_on[picture.id][1],
            )
        else:
            self.find()

    def next_rectangle(self) -> None:
        """Show the next of the rectangles that were found."""
        if len(self.rectangles) < 2:
            self.session.messages.refused.emit(
                "No other rectangle was found; drag the four corners onto one."
            )
            return
        self._show((self.number + 1) % len(self.rectangles))

    def _show(self, number: int) -> None:
        self.number, found = number, self.rectangles[number]
        self.corners, self.residual = (
            [(float(x), float(y)) for x, y in found.places],
            found.residual,
        )
        if self.picture is not None:
            self._found_on[self.picture.id] = (list(self.corners), self.residual)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def set_real(self, real: tuple[float, float]) -> None:
        """Other sides: the rectangle that fits them is looked for, where no corner was put by
        hand."""
        untouched = self._untouched
        self.real = real
        if untouched:
            self.find()

    @property
    def _untouched(self) -> bool:
        """Whether the corners are those of a rectangle that was found."""
        return bool(self.rectangles) and self.corners == [
            (float(x), float(y)) for x, y in self.rectangles[self.number].places
        ]

    def wants_key(self, key: str) -> bool:
        return key.upper() == "N" and bool(self.rectangles)

    def key(self, key: str) -> None:
        self.next_rectangle()

    def _found(self) -> None:
        picture, found = self.picture, self._rectangles.value
        if picture is None or picture.id != self._of or found is None:
            return
        self.number = 0
        if found:
            self._show(0)
            return
        self._put_anywhere(picture)
        self.session.messages.refused.emit(
            "No clear rectangle was found; drag the four corners onto one."
        )

    def _put_anywhere(self, picture: Picture) -> None:
        """Four corners about the picture's middle, to be dragged."""
        share = picture.to_base.apply(
            np.array([(0.25, 0.25), (0.75, 0.25), (0.75, 0.75), (0.25, 0.75)])
            * (picture.width, picture.height)
        )
        self.corners, self.residual = [(float(x), float(y)) for x, y in share], 0.0
        self._found_on[picture.id] = (list(self.corners), self.residual)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def stopped(self) -> None:
        if self.picture is not None and self.picture.id == self._of:
            self._put_anywhere(self.picture)

    def square(self) -> None:
        """Square the photo by the corners as they are."""
        picture = self.picture
        if picture is None or len(self.corners) != 4:
            self.session.messages.refused.emit("Four corners are needed; let them be found first.")
            return
        corners = Corners(np.array(self.corners))
        if self.fit_edges:
            corners = sharpened(
                self.session.pictures.base(picture).grey, corners.places, lens=self.lens
            )
        try:
            job = square_photo(self.session.job, picture.id, corners, self.real)
        except ValueError as error:
            self.session.messages.refused.emit(str(error))
            return
        self._found_on[picture.id] = (list(self.corners), self.residual)
        self.corners, self.residual = [], corners.residual
        self.session.edit("square a photo", job)
        self.session.messages.fit_asked.emit()
        self.session.tool_changed.emit()

    def unsquare(self) -> None:
        picture = self.picture
        if picture is not None and picture.square is not None:
            self.session.edit(
                "have the photo as it was taken", as_taken(self.session.job, picture.id)
            )
            self.session.messages.fit_asked.emit()
            self.look()

    def press(self, at: Pointer) -> None:
        picture = self.picture
        if picture is None or not self.corners:
            return
        places = np.array([self._from_base(picture).point(*corner) for corner in self.corners])
        away = np.hypot(places[:, 0] - at.x, places[:, 1] - at.y)
        if away.min() <= _REACH_PX * at.pixel:
            self._held = int(away.argmin())
            self._before = self.corners[self._held]
        else:
            self.session.messages.refused.emit("Press on one of the four corners and drag it.")

    def move(self, at: Pointer) -> None:
        if self._held is not None and self.picture is not None:
            self.corners[self._held] = self._from_base(self.picture).inverse().point(at.x, at.y)

    @staticmethod
    def _from_base(picture: Picture) -> Affine:
        return picture.to_base.inverse().then(picture.to_job)

    def release(self, at: Pointer) -> None:
        if self._held is not None and self.picture is not None:
            if self.corners[self._held] != self._before:
                self.residual = 0.0  # nobody has measured sides that meet there
            self._found_on[self.picture.id] = (list(self.corners), self.residual)
        self._held = None
        self.session.tool_changed.emit()

    def forget(self) -> None:
        self._held, self.corners = None, []
        self.look()

    def cancel(self) -> bool:
        held = self._held
        if held is not None:
            self.corners[held], self._held = self._before, None
        return held is not None

    def marks(self) -> list[Mark]:
        picture = self.picture
        if picture is None or picture.square is not None or len(self.corners) != 4:
            return []
        places = [self._from_base(picture).point(*corner) for corner in self.corners]
        marks: list[Mark] = [
            LineMark(*a, *b) for a, b in zip(places, places[1:] + places[:1], strict=True)
        ]
        marks += [CrossMark(*place) for place in places]
        if self._held is not None:
            marks.append(MagnifierMark(*places[self._held], "corner"))
        return marks


class SquareSlip(Slip):
    """The rectangle's two sides, and what squaring gives."""

    def __init__(self, session: Session, tool: SquareTool) -> None:
        super().__init__(
            session,
            "Square a photo",
            "Four corners of something known to be a rectangle, a card or a sheet beside the work, give the true plan and the size in one go.",
        )
        self._tool = tool
        self.long, self.short = self.length_field("Long side"), self.length_field("Short side")
        self.long.entered.connect(lambda mm: self._set_real(mm, tool.real[1]))
        self.short.entered.connect(lambda mm: self._set_real(tool.real[0], mm))
        self.edges = QCheckBox("Fit the corners to the edges")
        self.edges.clicked.connect(lambda on: setattr(tool, "fit_edges", on))
        self.lens = QCheckBox("Take out a mild lens curve")
        self.lens.clicked.connect(lambda on: setattr(tool, "lens", on))
        residual, self._residual = fact_row("Sides straight within")
        pixel, self._pixel = fact_row("One pixel is")
        self.go = button("Square the photo", "main", tool.square)
        self.next = button("Another rectangle", "plain", tool.next_rectangle)
        self.next.setToolTip("shows the next rectangle that was found")
        self.again = button("Find the corners again", "plain", tool.find)
        self.back = button("As it was taken", "plain", tool.unsquare)
        self._note = label("", "sound", wrap=True)
        self.add(
            field_row("Long side", self.long),
            field_row("Short side", self.short),
            self.edges,
            self.lens,
        )
        self.add(residual, pixel, self.next, self.again, self.back, self._note)
        self.foot.add(self.go)
        self.refresh()

    def _set_real(self, long: float, short: float) -> None:
        self._tool.set_real((long, short))

    def refresh(self) -> None:
        tool, picture = self._tool, self.session.selection.picture
        tool.look()
        squared = picture is not None and picture.square is not None
        self.long.set_value(tool.real[0])
        self.short.set_value(tool.real[1])
        self.edges.setChecked(tool.fit_edges)
        self.lens.setChecked(tool.lens)
        self.go.setVisible(not squared)
        sides = f"{self.length(tool.real[0])} × {self.length(tool.real[1])}"
        self.foot.offer(
            self.go,
            f"What the corners bound becomes {sides}",
            ""
            if len(tool.corners) == 4
            else "Choose a picture first, in Gather"
            if picture is None
            else "Looking for the corners …"
            if tool.busy
            else "Drag four corners onto a rectangle",
        )
        self.again.setVisible(not squared)
        self.next.setVisible(not squared and len(tool.rectangles) > 1)
        self.back.setVisible(squared)
        residual = picture.square.residual if picture and picture.square else tool.residual
        self._residual.setText(f"{residual:.2f} px" if residual else "–")
        self._pixel.setText(self.length(picture.pixel_size, 4) if picture and squared else "–")
        self._note.setText("Squared and to scale." if squared else "")
        self._note.setVisible(squared)
