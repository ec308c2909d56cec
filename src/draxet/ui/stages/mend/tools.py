"""The tools of Mend."""

from draxet.job.looks import open_ends
from draxet.ui.stages.mend.ends import next_open_end
from draxet.ui.stages.row import ActRow, ToolRow, contours

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow("pick", "Pick and move nodes", "pick", "shaping:ShapingTool", "pick:MendSlip", contours),
    ActRow("next-end", "Next open end", "ends", lambda hands: next_open_end(hands.session), lambda session: "" if open_ends(session.job) else "no contour is open"),
    ToolRow("clean", "Clean", "clean", "clean:CleanTool", "clean:CleanSlip", contours),
    ToolRow("regions", "Regions", "regions", "regions:RegionTool", "regions:RegionSlip", contours),
    ToolRow("offset", "Offset", "offset", "offset:OffsetTool", "offset:OffsetSlip", contours),
    ToolRow("trim", "Trim and extend", "trim", "trim:TrimTool", "trim:TrimSlip", contours),
    ToolRow("smooth", "Smooth", "brush", "smooth:SmoothTool", "smooth:SmoothSlip", contours),
    ToolRow("truths", "True shapes", "true", "truths:TruthTool", "truths:TruthSlip", contours),
    ToolRow("move", "Move", "shift", "arrange:MoveTool", "arrange:ArrangeSlip", contours),
    ToolRow("size", "Size", "size", "arrange:SizeTool", "arrange:ArrangeSlip", contours),
    ToolRow("align", "Align and space", "align", "align:AlignTool", "align:AlignSlip", contours),
    ToolRow("mirror", "Mirror", "mirror", "arrange:MirrorTool", "arrange:ArrangeSlip", contours),
    ToolRow("turn", "Turn", "turn", "arrange:TurnTool", "arrange:ArrangeSlip", contours),
    ToolRow("falls", "Falls or stays", "falls", "falls:FallTool", "falls:FallSlip", contours),
    ToolRow("ring", "Ring and rows", "ring", "arrange:RingTool", "arrange:ArrangeSlip", contours),
)
