"""The tools of Make."""

from draxet.ui.stages.row import ToolRow, contours

__all__ = ["TOOLS"]

TOOLS = (ToolRow("cut", "Cut through", "cut", "cut:CutTool", "cut:CutSlip", contours),)
