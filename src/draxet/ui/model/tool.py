"""Mouse tools: small state machines fed with plain events, which say what they wait for and what to
mark on the canvas.

A *mark* is something drawn over the work while a tool is in hand; marks are plain data in job
space, so a tool can be driven and looked at without a window.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.record import record

__all__ = [
    "AreaMark",
    "ArrowMark",
    "BoxMark",
    "ContourMark",
    "CrossMark",
    "FRAME_ARM",
    "FRAME_ASIDE",
    "FrameMark",
    "LineMark",
    "MagnifierMark",
    "MapMark",
    "Mark",
    "NodeInHand",
    "Pointer",
    "Prompt",
    "SignMark",
    "StartMark",
    "TagMark",
    "Tool",
    "Waiting",
]


@record(frozen=True)
class Pointer:
    """Where the pointer is in job space, how many mm a screen pixel is, and which keys are held: Alt
    (nothing is caught), Shift (one more, or a corner), Ctrl (of a stroke its edge)."""

    x: float
    y: float
    pixel: float
    free: bool = False
    adds: bool = False
    edge: bool = False


@record(frozen=True)
class Prompt:
    """The canvas's top line: what the next click does, a hint, and keys that act now with what they
    do."""

    waits: str
    hint: str = ""
    keys: tuple[tuple[str, str], ...] = ()


@record(frozen=True)
class CrossMark:
    """A picked place, with the directions (radians, job space) of the lines it is locked to."""

    x: float
    y: float
    directions: tuple[float, ...] = ()


@record(frozen=True)
class LineMark:
    """A straight line between two places."""

    x0: float
    y0: float
    x1: float
    y1: float
    manner: str = "hand"


@record(frozen=True)
class TagMark:
    """A few words on a tag beside a place: dark for what is in hand (``hand``), light for what is
    kept (``note``)."""

    x: float
    y: float
    words: str
    manner: str = "hand"


@record(frozen=True)
class SignMark:
    """A small sign at a place: ``open`` (a split ring), ``corner`` (a wedge), ``smooth`` (a dot),
    ``handle`` (a small square), ``point`` (a plus), ``bridge`` (a beam), ``tab`` (a beam on a cut),
    ``falls`` (an arrow downwards) or ``thin`` (two heads that face each other)."""

    x: float
    y: float
    sign: str
    hot: bool = False


@record(frozen=True)
class StartMark:
    """Where a contour begins, and in which direction (radians) it runs."""

    x: float
    y: float
    direction: float


@record(frozen=True)
class ArrowMark:
    """A difference left over: from one place to another (as long as it is to be shown), with words
    at its end."""

    x0: float
    y0: float
    x1: float
    y1: float
    words: str = ""
    manner: str = "hand"


@record(frozen=True)
class BoxMark:
    """A box being drawn."""

    x0: float
    y0: float
    x1: float
    y1: float


FRAME_ASIDE, FRAME_ARM = 14.0, 26.0
"""How far a frame stands off what it frames, and its arm off it, in screen pixels."""


@record(frozen=True)
class FrameMark:
    """A frame round a box, with what can be held of it: brackets at corners, bars at middles of sides
    (-1, 0 or 1 across and up) and the arm (0, 0); that at `hot` is beneath the pointer."""

    box: tuple[float, float, float, float]
    holds: tuple[tuple[int, int], ...] = ()
    hot: tuple[int, int] | None = None


@record(frozen=True)
class ContourMark:
    """Contours drawn in the colour of what is in hand (``hand``), of a fault (``fault``), of a
    proposal (``offer``), of what was left out of one (``aside``, dotted) of what is lacking
    (``lacking``, broad dashes), of what would go (``goes``, its line dotted) or of what chosen ones
    would become (``preview``, dashed); at each of several `places`, where there are any, instead of
    where they are."""

    contours: tuple[Contour, ...]
    manner: str = "hand"
    places: tuple[Affine, ...] = ()


@record(frozen=True)
class AreaMark:
    """An area of flat colour (#rrggbb) proposed: contours filled even-odd."""

    contours: tuple[Contour, ...]
    colour: str


@record(frozen=True, eq=False)
class MapMark:
    """Places (n, 2) and how good each is (n,): 0 very good, 1 at the limit, over 1 beyond it."""

    places: Points
    shares: Floats


@record(frozen=True)
class MagnifierMark:
    """The picture seen through a magnifier round a place, with words beneath."""

    x: float
    y: float
    words: str
    directions: tuple[float, ...] = ()


Mark = (
    AreaMark
    | ArrowMark
    | CrossMark
    | LineMark
    | TagMark
    | SignMark
    | BoxMark
    | FrameMark
    | ContourMark
    | MapMark
    | MagnifierMark
    | StartMark
)


NodeInHand = tuple[str, int]
"""A contour, and the number of its node."""


class Tool:
    """A tool in hand. What it does not care about it ignores."""

    title = ""
    draws: frozenset[type] = frozenset()
    """The kinds of placed things that it draws itself."""
    shows_falls = False
    """Whether it draws what falls itself."""

    @property
    def plays(self) -> Any:
        """What of a rehearsal it shows; the job's own cuts and programs stand back then."""
        return None

    @property
    def wants_number(self) -> bool:
        """Whether digits typed over the canvas belong to the tool's number field now."""
        return False

    @property
    def follows(self) -> bool:
        """Whether the view goes along with a pointer that rests near its edge: something is begun
        that ends elsewhere."""
        return False

    @property
    def holds(self) -> bool:
        """Whether the button holds something now, which Esc lets go before all else."""
        return False

    def begin(self) -> None:
        """It is being taken in hand."""

    def prompt(self) -> Prompt:
        """What the tool waits for."""
        raise NotImplementedError

    def press(self, at: Pointer) -> None:
        """The main button goes down."""

    def move(self, at: Pointer) -> None:
        """The pointer moves, with or without the button down."""

    def release(self, at: Pointer) -> None:
        """The main button comes up."""

    def cancel(self) -> bool:
        """Esc: give up what is begun; whether anything was."""
        return False

    def stopped(self) -> None:
        """What was being worked out for it was stopped."""

    def nudge(self, dx: float, dy: float) -> bool:
        """An arrow key: move what is in hand by so many mm; whether there was anything to move."""
        return False

    def wants_key(self, key: str) -> bool:
        """Whether a key belongs to the tool now: a character, or ``Backspace``, ``Tab``, ``Enter``
        or ``Escape``."""
        return False

    def key(self, key: str) -> None:
        """A key that the tool wants."""

    def menu(self, at: Pointer) -> list[tuple[str, str, Callable[[], object]]]:
        """What fits the thing of the tool's own beneath the pointer (a node, a span): words, key,
        and what it does."""
        return []

    def remove(self) -> bool:
        """Delete: remove what the tool has in hand; whether there was anything."""
        return False

    def enter(self) -> bool:
        """Enter: finish what is begun; whether that could be done."""
        return False

    def step_back(self) -> bool:
        """Undo in the midst of a gesture: take back its last step; whether there was one."""
        return False

    def forget(self) -> None:
        """Something was undone or redone: what is begun may lie on what is no more, and is
        dropped."""

    def put_away(self) -> None:
        """Another tool is taken in hand."""

    def nodes_in_hand(self) -> frozenset[NodeInHand]:
        """Nodes that it changes next, where it has chosen some."""
        return frozenset()

    def hold_nodes(self, nodes: frozenset[NodeInHand]) -> None:
        """Have these in hand instead."""

    def hidden(self) -> frozenset[str]:
        """Contours that the tool draws itself for the moment."""
        return frozenset()

    def marks(self) -> list[Mark]:
        """What to draw over the work."""
        return []


class Waiting(Tool):
    """A tool with nothing to click: its slip does it all."""

    def __init__(self, words: Prompt) -> None:
        self._words = words

    def prompt(self) -> Prompt:
        return self._words
