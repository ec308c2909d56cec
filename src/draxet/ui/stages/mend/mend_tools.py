"""The tools of Mend."""

from draxet.ui.model.session import Session
from draxet.ui.stages.mend.next_end import next_open_end
from draxet.ui.stages.row import ActRow, Hands, ToolRow, contours

__all__ = ["TOOLS"]


def _last_way(hands: Hands) -> None:
    """The way in which contours were arranged last is taken again."""
    from draxet.ui.stages.mend.arrange_settings import (
        arrange_settings,
    )  # not needed to show a window

    session: Session = hands.session
    session.messages.tool_asked.emit(arrange_settings(session).way)


TOOLS = (
    ToolRow(
        "pick",
        "Pick and move nodes",
        "pick",
        "shaping:ShapingTool",
        "pick_tool:MendSlip",
        contours,
        key="Q",
    ),
    ActRow(
        "next-end",
        "Next open end",
        "ends",
        lambda hands: next_open_end(hands.session),
        lambda session: "" if session.job.open_ends else "no contour is open",
        key="W",
    ),
    ToolRow(
        "clean", "Clean", "clean", "clean_tool:CleanTool", "clean_tool:CleanSlip", contours, key="E"
    ),
    ToolRow(
        "regions",
        "Regions",
        "regions",
        "region_tool:RegionTool",
        "region_slip:RegionSlip",
        contours,
        key="R",
    ),
    ToolRow(
        "offset",
        "Offset",
        "offset",
        "offset_tool:OffsetTool",
        "offset_tool:OffsetSlip",
        contours,
        key="T",
    ),
    ToolRow(
        "trim",
        "Trim and extend",
        "trim",
        "trim_tool:TrimTool",
        "trim_tool:TrimSlip",
        contours,
        key="A",
    ),
    ToolRow(
        "smooth", "Smooth", "brush", "smooth:SmoothTool", "smooth:SmoothSlip", contours, key="S"
    ),
    ToolRow(
        "truths",
        "True shapes",
        "true",
        "truth_tool:TruthTool",
        "truth_tool:TruthSlip",
        contours,
        key="D",
    ),
    ActRow("arrange", "Move, turn and repeat", "arrange", _last_way, contours, key="F"),
    ToolRow(
        "move",
        "Move",
        "shift",
        "arrange_tools:MoveTool",
        "arrange_tools:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "size",
        "Size",
        "size",
        "arrange_tools:SizeTool",
        "arrange_tools:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "mirror",
        "Mirror",
        "mirror",
        "arrange_tools:MirrorTool",
        "arrange_tools:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "turn",
        "Turn",
        "turn",
        "arrange_tools:TurnTool",
        "arrange_tools:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "ring",
        "Ring and rows",
        "ring",
        "arrange_tools:RingTool",
        "arrange_tools:ArrangeSlip",
        contours,
        of="arrange",
    ),
    ToolRow(
        "align",
        "Align and space",
        "align",
        "align_tool:AlignTool",
        "align_tool:AlignSlip",
        contours,
        key="G",
    ),
    ToolRow(
        "falls",
        "Falls or stays",
        "falls",
        "fall_tool:FallTool",
        "fall_tool:FallSlip",
        contours,
        key="Z",
    ),
    ToolRow(
        "bridges",
        "Bridges",
        "bridge",
        "bridge_tool:BridgeTool",
        "bridge_slip:BridgeSlip",
        contours,
        key="X",
    ),
)
