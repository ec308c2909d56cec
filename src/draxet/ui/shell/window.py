"""The window: it puts the parts together and connects them; it does none of the work."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QLabel,
    QMainWindow,
    QMenu,
    QMenuBar,
    QVBoxLayout,
    QWidget,
)

from draxet import __version__
from draxet.job.guide_edits import add_guide
from draxet.ui.canvas.view import Canvas
from draxet.ui.controls.fields import Field, WordField
from draxet.ui.controls.pane import Pane
from draxet.ui.controls.questions import tell
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT, Tokens
from draxet.ui.model.garbage import MemoryBack
from draxet.ui.model.preparing import Preparing
from draxet.ui.model.reading import Reading
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Pointer, Prompt
from draxet.ui.model.watching import Watching
from draxet.ui.shell.autosave import Autosave
from draxet.ui.shell.bodies import Bodies
from draxet.ui.shell.canvas_lists import CanvasLists
from draxet.ui.shell.canvas_words import words_of_canvas
from draxet.ui.shell.command_table import all_commands
from draxet.ui.shell.cutting import Cutting
from draxet.ui.shell.facts import FactsStrip
from draxet.ui.shell.finder import Finder
from draxet.ui.shell.first_page import FirstPage
from draxet.ui.shell.hands import Hands
from draxet.ui.shell.job_files import JobFiles
from draxet.ui.shell.menus import fill_menus
from draxet.ui.shell.opening import Opening, can_take
from draxet.ui.shell.resting_slip import Resting
from draxet.ui.shell.room import Room
from draxet.ui.shell.route_card import RouteCard
from draxet.ui.shell.slip_panel import SlipPanel
from draxet.ui.shell.top_line import TopLine
from draxet.ui.shell.window_commands import Command
from draxet.ui.stages.gather.picture_in_hand import GatherSlip
from draxet.ui.stages.row import NOT_A_CONTOUR

__all__ = ["Window"]


class Window(QMainWindow):
    """Route card, canvas, slip and facts strip round one session."""

    def __init__(self, tokens: Tokens = LIGHT) -> None:
        super().__init__()
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.session = Session(self)
        self.workers = self.session.workers
        self.reading = Reading(self.session)
        self.jobs = JobFiles(self.session, self.reading, self)
        self.session.messages.coupon_asked.connect(self.jobs.begin_with)
        self.opening = Opening(self.session, self.reading, self.jobs, self)
        self.preparing = Preparing(self.session, self)
        self.autosave = Autosave(self.session, self)
        self._may_close = False
        self.canvas = Canvas(self.session, tokens)
        self.heard = CanvasLists(self.session, self.canvas)
        self.slips = SlipPanel(self.session, tokens)
        self.bodies = Bodies(self.session, self.canvas, tokens, self)
        self.top_line = TopLine(tokens)
        self.facts = FactsStrip(self.session)
        self.commands = {command.id: command for command in all_commands(self._hands())}
        self.cutting = Cutting(self.session, self.canvas, self)
        self.watching = Watching(self.session, self)
        tools = [c for c in self.commands.values() if c.stage]
        self.card = RouteCard(self.session, tools, tokens, self._run)
        self.first_page = FirstPage(self.session, self.canvas, self.jobs, self.commands)
        self._actions: dict[str, QAction] = {}
        self._lay_out()
        self._fill_menus()
        self._connect()
        self._stage_opened()
        self._refresh()
        self.first_page.refresh()
        self.canvas.setFocus()

    # --- putting together

    def _hands(self) -> Hands:
        """What commands act on."""
        return Hands(
            self.session,
            self.jobs,
            self.opening,
            self.canvas,
            self.bodies,
            self.slips.put,
            self._other_pane,
            self._find,
            self._show_keys,
            self._show_history,
            self._life_size,
            self._about,
            self.close,
        )

    def _lay_out(self) -> None:
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.top_line)
        middle.addWidget(self.canvas, 1)
        self.room = Room(self.card, middle, self.slips, self.facts)
        self.setCentralWidget(self.room)

    def _fill_menus(self) -> None:
        bar = QMenuBar(self)
        self.setMenuBar(bar)
        for command in self.commands.values():
            action = QAction(command.words, self)
            action.setData(command.id)
            action.setCheckable(command.checked is not None)
            action.triggered.connect(lambda _, command=command: self._run(command))
            if command.key and command.stage is None:
                action.setShortcut(command.key)
            self._actions[command.id] = action
            self.addAction(action)
        for menu in fill_menus(bar, self.commands.values(), self._actions):
            menu.aboutToShow.connect(partial(self._show_why_not, menu, shown=True))
            menu.aboutToHide.connect(partial(self._show_why_not, menu, shown=False))
        self._name = QLabel()
        self._name.setProperty("part", "quiet")
        self._name.setContentsMargins(0, 0, 16, 0)
        self._name.setFixedHeight(px(26))
        self._name.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        bar.setCornerWidget(self._name)

    def _connect(self) -> None:
        s = self.session
        self._soon = QTimer(self)  # however much one event changes, card and menus show it once
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._refresh_round)
        for signal in (s.document.changed, s.selection.changed, s.tool_changed, s.looked_changed):
            signal.connect(self._refresh)
        s.desk.stage_changed.connect(self._stage_opened)
        s.messages.leaving.connect(self._take_what_is_typed)
        s.document.ending.connect(self.workers.end_job)
        s.document.ending.connect(MemoryBack(self).start)
        for signal in (s.tool_changed, s.selection.changed, s.document.changed):
            signal.connect(self._rest)
        s.desk.view_changed.connect(self.slips.refresh)
        s.marks_changed.connect(lambda: self.top_line.keep(self._prompt()))
        s.tool_changed.connect(lambda: self.top_line.wait_for(self._prompt()))
        s.messages.announced.connect(self.top_line.say)
        self.top_line.said.connect(self.canvas.say)
        self.top_line.offer_over.connect(s.messages.drop_offer)
        self.top_line.taken.connect(s.messages.take_offer)
        s.messages.offered.connect(self._offer)
        s.messages.refused.connect(lambda words: self.top_line.refuse(words))
        s.messages.lost.connect(lambda words: self.top_line.refuse(words, stays=True))
        s.messages.reading.connect(self.top_line.read)
        s.messages.tool_asked.connect(lambda name: self._run(self.commands[name]))
        s.messages.enter_pressed.connect(self.slips.press_main)
        s.messages.canvas_asked.connect(self.canvas.setFocus)
        self.canvas.pointed.connect(
            lambda: self.facts.point(self.canvas.pointed_at, self.canvas.camera.zoom)
        )
        self.canvas.asked_menu.connect(self._context_menu)
        self.canvas.guide_pulled.connect(
            lambda x, y, angle: s.edit("pull a guide", add_guide(s.job, x, y, angle))
        )
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self.canvas.watch_focus)
        app.focusChanged.connect(self.room.watch_focus)
        app.focusChanged.connect(self._listen_anew)

    def _listen_anew(self) -> None:
        """Who listens may have begun just now."""
        self.heard.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._name.setFixedWidth(min(px(300), self.width() // 4))  # the menus need the rest
        super().resizeEvent(event)

    # --- keeping up

    def _stage_opened(self) -> None:
        for command in self.commands.values():
            if command.stage is not None:
                self._actions[command.id].setShortcut(
                    command.key if command.stage is self.session.desk.stage else ""
                )
        first = self.session.desk.stage.first
        if first and not self.commands[first].why_not():
            self.commands[first].run()  # which refreshes, as whatever takes a tool in hand does
        else:
            self._put_resting_slip()
            self._refresh()

    def _put_resting_slip(self) -> None:
        """The slip of a stage while no tool is in hand: that of the picture in hand, if there is
        one."""
        s = self.session
        kind = (
            GatherSlip
            if s.desk.stage is Stage.GATHER
            and s.selection.picture is not None
            and not s.selection.hands_empty
            else Resting
        )
        if type(self.slips.slip) is not kind:
            self.slips.put(kind(s))

    def _rest(self) -> None:
        """A tool that was put away takes its slip along; a picture that came or was laid down, its
        own."""
        if self.session.tool is None and self.slips.slip is not None:
            self._put_resting_slip()

    def _take_what_is_typed(self) -> None:
        """What stands in a field counts before the job is saved or the field goes."""
        field = QApplication.focusWidget()
        if isinstance(field, (Field, WordField)) and self.isAncestorOf(field):
            field.finish()

    def _refresh(self) -> None:
        self.slips.refresh()
        self.top_line.keep(self._prompt())
        self._soon.start()

    def _refresh_round(self) -> None:
        """What stands round the work."""
        s = self.session
        self.card.refresh()
        self.facts.refresh()
        self.canvas.describe(words_of_canvas(s, self.slips.words_of_enter()))
        self.heard.refresh()
        for command in self.commands.values():
            action = self._actions[command.id]
            if command.stage is None:
                action.setEnabled(not command.why_not())
            if command.checked:
                action.setChecked(command.checked())
        self._actions["undo"].setText(
            f"&Undo: {s.document.history.undo_words}" if s.document.history.undo_words else "&Undo"
        )
        self._actions["redo"].setText(
            f"&Redo: {s.document.history.redo_words}" if s.document.history.redo_words else "&Redo"
        )
        name = s.document.path.name if s.document.path else s.job.name
        self.setWindowTitle(f"{name}{'' if s.document.history.is_saved else ' *'} – Draxet")
        self._name.setText(f"{name}{'' if s.document.history.is_saved else ' · not saved'}")

    def _offer(self, words: str, label: str) -> None:
        self.top_line.offer(words, label)
        self._soon.start()

    def _prompt(self) -> Prompt:
        if self.bodies.view is not None and self.bodies.shown:
            return self.bodies.view.prompt()
        if self.session.tool:
            return self.session.tool.prompt()
        if not self.session.job.pictures and not self.session.job.contours:
            return Prompt(
                "Choose a picture, drop one here or paste one.",
                "photos, scans, PDF pages, SVG and DXF drawings",
            )
        return Prompt(
            "Take a tool from the route card.",
            keys=(("1 … 6", "stages"), ("Q W E …", "tools"), ("F1", "all keys")),
        )

    def _show_why_not(self, menu: QMenu, *, shown: bool) -> None:
        """In a menu a tool that cannot be taken is grey and says why; else its key would be as if dead."""
        for action in menu.actions():
            command = self.commands.get(action.data() or "")
            if command is not None:
                why = command.why_not()
                action.setToolTip(why)
                if command.stage is not None:
                    action.setEnabled(not (shown and why))

    def _run(self, command: Command) -> None:
        why = command.why_not()
        if why == NOT_A_CONTOUR:
            self.top_line.refuse(f"{command.words}: {why}.", (("3", "trace it"),))
        elif why:
            self.session.messages.refused.emit(f"{command.words}: {why}.")
        else:
            command.run()
            return
        self.card.refresh()  # what was pressed there is not in hand

    def _other_pane(self, forward: bool) -> None:
        """The keys go round: canvas, slip, card, facts."""
        at = QApplication.focusWidget()
        panes: list[QWidget] = [
            self.bodies.pane,
            *([self.first_page] if self.first_page.isVisible() else []),
            self.slips,
            self.card,
            self.facts,
        ]
        number = next(
            (
                k
                for k, pane in reversed(list(enumerate(panes)))
                if at is pane or (at is not None and pane.isAncestorOf(at))
            ),
            0,
        )
        for step in range(1, len(panes)):  # on past what has nothing for the keys
            to = panes[(number + (step if forward else -step)) % len(panes)]
            if not isinstance(to, Pane):
                to.setFocus()
                return
            if to is self.slips:
                self.room.open_slip()
            if to.enter():
                return

    # --- small windows

    def _find(self) -> None:
        Finder(list(self.commands.values()), self).exec()

    def _context_menu(self, at: QPointF, beneath: Pointer) -> None:
        from draxet.ui.shell.context import entries_at  # not needed to show a window

        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        for entry in entries_at(self.session, beneath):
            if entry.run is not None:
                action = QAction(f"{entry.words}\t{entry.key}" if entry.key else entry.words, menu)
                action.triggered.connect(lambda _, run=entry.run: run())
                menu.addAction(action)
            elif entry.command:
                menu.addAction(self._actions[entry.command])
            else:
                menu.addSeparator()
        self._show_why_not(menu, shown=True)
        menu.exec(at.toPoint())
        self._show_why_not(menu, shown=False)
        menu.deleteLater()

    def _show_keys(self) -> None:
        from draxet.ui.shell.keys_page import KeysPage  # not needed to show a window

        KeysPage(list(self.commands.values()), self.session.desk.stage, self).exec()

    def _show_history(self) -> None:
        from draxet.ui.shell.history_page import HistoryPage  # not needed to show a window

        HistoryPage(self.session, self).show()

    def _life_size(self, ask: bool) -> None:
        """Show the work as large as it is; the first time, or where that is asked for, a card tells
        how large that is."""
        from draxet.ui.shell.life_size import scale_of_screen  # not needed to show a window

        scale = scale_of_screen(self, ask)
        if scale is not None:
            self.canvas.zoom_by(scale / self.canvas.camera.zoom)

    def _about(self) -> None:
        tell(
            self,
            "About Draxet",
            f"Draxet {__version__}\nFrom a picture to true-size, closed, machine-ready contours.\nGPL-3.0-or-later. Typeface: Barlow Semi Condensed, SIL Open Font License.",
        )

    # --- the window's own events

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event and (data := event.mimeData()) and can_take(data):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event and (data := event.mimeData()):
            event.acceptProposedAction()
            self.opening.take_dropped(data)

    def offer_what_was_left(self) -> None:
        """Offer work that a crash left behind."""
        from draxet.ui.shell.left_behind import offer_left_behind  # not needed to show a window

        offer_left_behind(self.session, self.autosave, self)

    def open_files(self, paths: Sequence[Path]) -> None:
        self.opening.open_files(paths)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        self.session.messages.leaving.emit()
        if not self._may_close and not self.session.document.history.is_saved:
            event.ignore()
            QTimer.singleShot(
                0, lambda: self.jobs.leave(self._close)
            )  # a window does not close again while it is closing
            return
        self.session.put_tool_away()
        self.session.document.ending.emit()
        self.workers.close()
        event.accept()

    def _close(self) -> None:
        self._may_close = True
        self.close()
