"""The tools of Prove."""

from draxet.ui.stages.row import ToolRow

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow(
        "hand-off", "Hand off", "handoff", "hand_off:HandOffTool", "hand_off:HandOffSlip", key="Q"
    ),
    ToolRow(
        "rehearse",
        "Rehearse",
        "rehearse",
        "rehearse_tool:RehearseTool",
        "rehearse_slip:RehearseSlip",
        key="W",
    ),
)
