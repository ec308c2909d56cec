"""The tools of Trace."""

from draxet.ui.stages.row import ToolRow, contours, picture

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow("edges", "Edges", "edges", "ink:EdgesTool", "ink:EdgesSlip", picture),
    ToolRow("middles", "Middles", "middles", "ink:MiddlesTool", "ink:MiddlesSlip", picture),
    ToolRow("colours", "Colours", "colours", "colours:ColoursTool", "colours:ColoursSlip", picture),
    ToolRow("trace-area", "Chosen area", "region", "area:ChosenAreaTool", "area:ChosenAreaSlip", picture),
    ToolRow("nearness", "Compare", "near", "nearness:NearnessTool", "nearness:NearnessSlip", contours),
)
