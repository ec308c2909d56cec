"""The tools of Mend."""

from draxet.ui.stages.mend.ends import next_open_end
from draxet.ui.shell.session import Session
from draxet.ui.stages.row import ActRow, Hands, ToolRow, contours

__all__ = ["TOOLS"]


def _last_way(hands: Hands) -> None:
    """The way in which contours were arranged last is taken again."""
    from draxet.ui.stages.mend.arrange_settings import (
        arrange_settings,
    )  # not needed to show a window

    session: Session = hands.session
    session.tool_asked.emit(arrange_settings(session).way)


TOOLS = (
    ToolRow(
        "pick", "Pick and move nodes", "pick", "shaping:ShapingTool", "pick:MendSlip", contours
    ),
    ActRow(
        "next-end",
        "Next open end",
        "ends",
        lambda hands: next_open_end(hands.session),
        lambda session: "" if session.job.open_ends else "no contour is open",
    ),
    ToolRow("clean", "Clean", "clean", "clean:CleanTool", "clean:CleanSlip", contours),
    ToolRow("regions", "Regions", "regions", "regions:RegionTool", "regions:RegionSlip", contours),
    ToolRow("offset", "Offset", "offset", "offset:OffsetTool", "offset:OffsetSlip", contours),
    ToolRow("trim", "Trim and extend", "trim", "trim:TrimTool", "trim:TrimSlip", contours),
    ToolRow("smooth", "Smooth", "brush", "smooth:SmoothTool", "smooth:SmoothSlip", contours),
    ToolRow("truths", "True shapes", "true", "truths:TruthTool", "truths:TruthSlip", contours),
    ActRow("arrange", "Move, turn and repeat", "arrange", _last_way, contours),
    ToolRow(
        "move", "Move", "shift", "arrange:MoveTool", "arrange:ArrangeSlip", contours, of="arrange"
    ),
    ToolRow(
        "size", "Size", "size", "arrange:SizeTool", "arrange:ArrangeSlip", contours, of="arrange"
    ),
    ToolRow(
        "mirror",
        "Mirror",
        "mirror",
        "arrange:MirrorTool",
        "arrange:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "turn", "Turn", "turn", "arrange:TurnTool", "arrange:ArrangeSlip", contours, of="arrange"
    ),
    ToolRow(
        "ring",
        "Ring and rows",
        "ring",
        "arrange:RingTool",
        "arrange:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow("align", "Align and space", "align", "align:AlignTool", "align:AlignSlip", contours),
    ToolRow("falls", "Falls or stays", "falls", "falls:FallTool", "falls:FallSlip", contours),
    ToolRow("bridges", "Bridges", "bridge", "bridges:BridgeTool", "bridges:BridgeSlip", contours),
)
