"""Colours: areas of flat colour with common edges, by a list of swatches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QCheckBox, QFrame, QVBoxLayout, QWidget

from draxet.geometry.arrays import NDArray
from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.trace.closeness import area_closeness_of
from draxet.trace.colours import ColourAnswer, ColourRequest, trace_colours
from draxet.trace.ground import smooth_of
from draxet.trace.palette import (
    Palette,
    areas_verdict,
    fewer_than_wanted,
    split_colour,
    suggested_palette,
)
from draxet.trace.rim import without_ground
from draxet.ui.controls.fields import Field, WordField
from draxet.ui.controls.slip_parts import button, emptied, field_row, label, side_by_side
from draxet.ui.look.style import px
from draxet.ui.model.preparing import prepared_pixels
from draxet.ui.model.session import Session
from draxet.ui.model.tool import AreaMark, Mark, Pointer, Prompt
from draxet.ui.stages.trace.proposal import Proposal
from draxet.ui.stages.trace.trace_slip import TraceSlip
from draxet.ui.stages.trace.tracing import TraceTool
from draxet.ui.stages.trace_settings import MOST_SWATCHES, Swatch
from draxet.units import UnitError

__all__ = ["ColoursSlip", "ColoursTool"]


class ColoursTool(TraceTool):
    """Proposes colour areas; a click on the picture adds the colour there, while that is asked
    for."""

    title, step = "Colours", "trace the colours"
    nothing = "Nothing was found to trace: every colour is dropped, or every area is smaller than the smallest one."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.wanted: int | None = None
        self.picking = False
        self.verdict = ""
        self._areas: tuple[Proposal | None, list[AreaMark]] = (None, [])
        if session.selection.picture and self.settings.swatches_of != session.selection.picture.id:
            self.settings.swatches = ()

    def prompt(self) -> Prompt:
        if self.picking:
            return Prompt(
                "Colours: click the colour to add in the picture.", keys=(("Esc", "leave it"),)
            )
        return super().prompt()

    def work(self, picture: Picture) -> Callable[[Progress], Proposal]:
        s, store, wanted = self.settings, self.session.pictures, self.wanted
        keep_rim = s.keep_rim
        given = np.array([swatch.colour for swatch in s.swatches], dtype=np.uint8).reshape(-1, 3)
        request = partial(
            ColourRequest,
            min_area=s.speck / picture.pixel_size**2,
            tolerance=s.tolerance_px(picture, self.session.job),
            smooth=smooth_of(s.smoothness),
            stacked=s.stacked,
            dropped=frozenset(k for k, swatch in enumerate(s.swatches) if swatch.dropped),
            area=s.ground(picture).area,
        )

        def work(report: Progress) -> Proposal:
            pixels = store.of(picture).levels[0]
            rgb = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
            report(0.02, "looking at the colours")
            palette = (
                Palette(given, np.zeros(len(given)))
                if len(given)
                else suggested_palette(rgb, wanted)
            )
            verdicts = (
                fewer_than_wanted(palette, None if len(given) else wanted),
                areas_verdict(rgb, palette.colours),
            )
            answer = trace_colours(request(rgb, palette.colours), report)
            return replace(
                self._offer_of(answer, picture, pixels, keep_rim=keep_rim),
                palette=tuple((int(r), int(g), int(b)) for r, g, b in palette.colours),
                warning=" ".join(words for words in verdicts if words),
            )

        return work

    def _offer_of(
        self, answer: ColourAnswer, picture: Picture, pixels: NDArray[Any], *, keep_rim: bool
    ) -> Proposal:
        """What was found as contours with their colours, and how near they lie to the picture."""
        high, wide = pixels.shape[:2]
        kept = [
            (area, area.contours[k])
            for area in answer.areas
            for k in (
                range(len(area.contours)) if keep_rim else without_ground(area.contours, wide, high)
            )
        ]
        contours = [contour for _, contour in kept]
        return self.proposal(
            contours,
            picture,
            area_closeness_of(contours, pixels),
            facts=[("Rim", str(len(answer.contours) - len(kept)))],
            colours=[_hex(area.colour) for area, _ in kept],
            traced=("colours",) * len(contours),
        )

    def _goes_by(self, picture: Picture) -> tuple[object, ...]:
        return (*super()._goes_by(picture), self.wanted)

    def _told(self) -> None:
        offer, s = self.traced.value, self.settings
        self.verdict = offer.warning
        if not s.swatches:
            s.swatches = tuple(
                Swatch(colour, f"Colour {k + 1}") for k, colour in enumerate(offer.palette)
            )
            s.swatches_of = self.picture_id
        super()._told()

    def suggest(self, count: int | None) -> None:
        """Look for the picture's colours anew."""
        self.wanted = count
        self.settings.swatches = ()
        self.run()

    def merge(self, chosen: list[int]) -> None:
        """Several colours become one: the first takes the others' areas."""
        if len(chosen) < 2:
            self.session.messages.refused.emit(
                "Choose two colours or more by their boxes; then they can be merged."
            )
            return
        swatches = self.settings.swatches
        r, g, b = np.mean([swatches[k].colour for k in chosen], axis=0)
        merged = replace(swatches[chosen[0]], colour=(round(r), round(g), round(b)))
        self._go_by(
            [
                merged if k == chosen[0] else swatch
                for k, swatch in enumerate(swatches)
                if k not in chosen[1:]
            ]
        )

    def drop(self, chosen: list[int]) -> None:
        """Colours that give no contours, or give them again."""
        if not chosen:
            self.session.messages.refused.emit("Choose a colour by its box first.")
            return
        self._go_by(
            [
                replace(swatch, dropped=swatch.dropped != (k in chosen))
                for k, swatch in enumerate(self.settings.swatches)
            ]
        )

    def split(self, chosen: list[int]) -> None:
        """One colour becomes two, as the picture has them."""
        picture = self.session.selection.picture
        if len(chosen) != 1 or picture is None:
            self.session.messages.refused.emit("Choose one colour by its box; it is split in two.")
            return
        swatches, k = list(self.settings.swatches), chosen[0]
        pixels = prepared_pixels(self.session, picture)
        if pixels is None:
            return
        rgb = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
        a, b = split_colour(
            rgb, np.array([swatch.colour for swatch in swatches], dtype=np.uint8), k
        )
        swatches[k] = replace(swatches[k], colour=a)
        self._go_by([*swatches, Swatch(b, f"{swatches[k].name} b")])

    def _go_by(self, swatches: Sequence[Swatch]) -> None:
        """Trace by these colours from now on."""
        if len(swatches) > MOST_SWATCHES:
            self.session.messages.refused.emit(
                f"There are {MOST_SWATCHES} colours already, and more are not traced; merge some of them first."
            )
            return
        self.settings.swatches, self.settings.swatches_of = (
            tuple(swatches),
            self.session.selection.picture.id if self.session.selection.picture else "",
        )
        self.run()

    def press(self, at: Pointer) -> None:
        picture = self.session.selection.picture
        if not self.picking or picture is None:
            super().press(at)
            return
        x, y = picture.to_job.inverse().point(at.x, at.y)
        if not (0 <= x < picture.width and 0 <= y < picture.height):
            self.session.messages.refused.emit(
                "There is no picture under the pointer; click on the picture."
            )
            return
        pixels = prepared_pixels(self.session, picture)
        if pixels is None:
            return
        part = pixels[max(0, int(y) - 2) : int(y) + 3, max(0, int(x) - 2) : int(x) + 3]
        colour = np.median(part.reshape(-1, *part.shape[2:]), axis=0)
        r, g, b = (int(v) for v in (colour if colour.ndim else [colour] * 3))
        self.picking = False
        swatches = self.settings.swatches
        self._go_by([*swatches, Swatch((r, g, b), f"Colour {len(swatches) + 1}")])

    def cancel(self) -> bool:
        picking, self.picking = self.picking, False
        self.session.tool_changed.emit()
        return picking or super().cancel()

    def marks(self) -> list[Mark]:
        kept, _ = self.parted_offer()
        if self._areas[0] is not kept:
            self._areas = kept, _areas_of(kept)
        return [*self._areas[1], *super().marks()]


def _areas_of(offer: Proposal) -> list[AreaMark]:
    by_colour: dict[str, list[int]] = {}
    for k, colour in enumerate(offer.colours):
        by_colour.setdefault(colour, []).append(k)
    return [
        AreaMark(tuple(offer.contours[k] for k in ks), colour) for colour, ks in by_colour.items()
    ]


def _hex(colour: tuple[int, int, int]) -> str:
    return "#{:02x}{:02x}{:02x}".format(*colour)


class ColoursSlip(TraceSlip):
    """How many colours, the swatches, and what they give."""

    tool: ColoursTool

    def __init__(self, session: Session, tool: ColoursTool) -> None:
        super().__init__(
            session,
            tool,
            "Colours",
            "Areas of flat colour; the edge between two of them is one curve, used by both.",
        )
        self.count = Field(_count, lambda v: f"{v:.0f}" if v else "as seen", "How many colours")
        self.count.refused.connect(session.messages.refused)
        self.count.entered.connect(lambda value: tool.suggest(round(value) or None))
        self.swatches = QVBoxLayout()
        self.swatches.setSpacing(2)
        self._warn = label("", "fault", wrap=True)
        self.merge = button("Merge", "plain", lambda: tool.merge(self.chosen()))
        self.drop = button("Drop", "plain", lambda: tool.drop(self.chosen()))
        self.split = button("Split", "plain", lambda: tool.split(self.chosen()))
        self.pick = button("Add one from the picture", "plain", self._pick)
        self.add(field_row("Colours", self.count, 96), self._warn)
        self.body.addLayout(self.swatches)
        self.add(side_by_side(self.merge, self.drop, self.split), self.pick)
        self.asked = self.ask(
            self.settings, self.set, ("stacked", "keep_rim", "detail", "smoothness", "speck")
        )
        self.add_outcome()
        self._boxes: list[QCheckBox] = []
        self._shown: tuple[Swatch, ...] = ()
        self.refresh()

    def _pick(self) -> None:
        self.tool.picking = True
        self.session.tool_changed.emit()

    def chosen(self) -> list[int]:
        """Numbers of the colours whose boxes are ticked."""
        return [k for k, box in enumerate(self._boxes) if box.isChecked()]

    def _rename(self, k: int, words: str) -> None:
        swatches = list(self.settings.swatches)
        swatches[k] = replace(swatches[k], name=words or f"Colour {k + 1}")
        self.settings.swatches = tuple(swatches)

    def refresh(self) -> None:
        s = self.settings
        self.count.set_value(len(s.swatches))
        self.asked.show_of(s)
        self.asked.rows["keep_rim"].setVisible(
            s.keep_rim or dict(self.tool.offer.facts).get("Rim", "0") != "0"
        )
        self._warn.setText(self.tool.verdict)
        self._warn.setVisible(bool(self.tool.verdict))
        if s.swatches != self._shown:
            self._shown = s.swatches
            emptied(self.swatches)
            self._boxes = []
            for k, swatch in enumerate(s.swatches):
                self.swatches.addWidget(self._swatch(k, swatch))
        super().refresh()

    def _swatch(self, k: int, swatch: Swatch) -> QWidget:
        box = QCheckBox()
        box.setFixedWidth(px(24))
        box.setAccessibleName(f"Choose {swatch.name}")
        self._boxes.append(box)
        patch = QFrame()
        patch.setFixedSize(px(30), px(22))
        patch.setStyleSheet(
            f"background: {_hex(swatch.colour)}; border: 1px solid #63666A; border-radius: 3px;"
        )
        words = WordField(f"Name of colour {k + 1}", 40)
        words.setText(swatch.name)
        words.entered.connect(lambda text: self._rename(k, text))
        parts: list[QWidget] = [box, patch, words]
        if swatch.dropped:
            parts.append(label("dropped", "quiet"))
        return side_by_side(*parts, spacing=6)


def _count(text: str) -> float:
    words = text.strip().lower()
    if words in ("", "as seen", "auto"):
        return 0.0
    if not (words.isascii() and words.isdecimal() and len(words) < 4 and 2 <= int(words) <= 32):
        raise UnitError(
            f"the number of colours must be from 2 to 32, or empty for as many as are seen, got {text.strip()!r}"
        )
    return float(words)
