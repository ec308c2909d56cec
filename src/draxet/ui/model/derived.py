"""What is worked out from other things and shown for as long as these stay the same: one idea of
what is the same, one way to have it worked out, to be told of it, to stop it and to end it.

A derived value is asked for as often as anybody likes, with what it goes by. Where that is the same
as the last time (``draxet.job.remember.same``) nothing happens; else a worker begins, the newest
request wins, and what was known stays shown or goes, as the value says. It ends with its job, and
that of a tool with the tool; Esc stops what the tool in hand waits for.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Generic, TypeVar

from draxet.files import reason
from draxet.job.remember import same
from draxet.progress import Progress

if TYPE_CHECKING:
    from draxet.ui.model.session import Session
    from draxet.ui.model.tool import Tool

__all__ = ["Derived"]

_Value = TypeVar("_Value")


class Derived(Generic[_Value]):
    """One value.

    Parameters
    ----------
    name : of its lane of work: no other value has it. nothing : what it is before it is known.
    failed : begins the sentence that tells why it could not be had. tool : with which it ends.
    keeps : whether what was known is shown until the newer is there. told : called when it has
    changed; the slip and the marks are shown anew where nothing is given. stepped : called when
    more of it is done.
    """

    def __init__(
        self,
        session: Session,
        name: str,
        nothing: _Value,
        failed: str,
        *,
        tool: Tool | None = None,
        keeps: bool = True,
        told: Callable[[], object] | None = None,
        stepped: Callable[[], object] | None = None,
    ) -> None:
        self._session, self.name, self.tool = session, name, tool
        self._nothing, self._failed, self._keeps = nothing, failed, keeps
        self._told, self._stepped = told or self._show_anew, stepped
        self.goes_by: Sequence[object] | None = None
        """What it was worked out from, or is being."""
        self.value = nothing
        self.share, self.words = 0.0, ""
        """How much of it is done, 0..1, and what is being done."""
        session.derived.add(self)

    @property
    def busy(self) -> bool:
        return self._session.workers.busy(self.name)

    def known(self, inputs: Sequence[object]) -> bool:
        """Whether it goes by these already, or is being worked out from them."""
        return self.goes_by is not None and same(self.goes_by, inputs)

    def ask(
        self, inputs: Sequence[object], work: Callable[[Progress], _Value], wait_ms: int = 0
    ) -> bool:
        """Have it worked out by a worker from these, who waits so long for a newer request; whether
        that was not known already."""
        if self.known(inputs):
            return False
        self.goes_by = inputs
        if not self._keeps:
            self.value = self._nothing
        self.share, self.words = 0.0, ""
        stepped = self._step if self._stepped else None
        self._session.workers.run(
            self.name, work, self._done, self._refuse, stepped, wait_ms=wait_ms
        )
        return True

    def know(self, inputs: Sequence[object], value: _Value) -> None:
        """What is known of these at once; nobody is told."""
        self._session.workers.cancel(self.name)
        self.goes_by, self.value = inputs, value

    def take(self, inputs: Sequence[object], value: _Value) -> None:
        """What is known of these at once, where that is news."""
        if not self.known(inputs):
            self.know(inputs, value)
            self._told()

    def stop(self) -> bool:
        """Leave off working it out; whether that was going on. It is begun anew where it goes by
        other things."""
        was = self.busy
        if was:
            self._session.workers.cancel(self.name)
            self.value = self._nothing
        return was

    def forget(self) -> None:
        """Know nothing, as in the beginning."""
        self._session.workers.cancel(self.name)
        self.goes_by, self.value = None, self._nothing

    def _step(self, share: float, words: str) -> None:
        self.share, self.words = share, words
        if self._stepped:
            self._stepped()

    def _done(self, value: _Value) -> None:
        self.value = value
        self._told()

    def _refuse(self, error: Exception) -> None:
        """What was known stays: no finding goes because it could not be looked for once more."""
        self._told()
        self._session.messages.refused.emit(f"{self._failed}: {reason(error)}")

    def _show_anew(self) -> None:
        self._session.desk.view_changed.emit()
        self._session.marks_changed.emit()
