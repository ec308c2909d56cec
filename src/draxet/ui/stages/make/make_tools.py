"""The tools of Make."""

from draxet.ui.stages.row import ToolRow, contours

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow(
        "cut", "Cut through", "cut", "operations:CutTool", "operations:OperationSlip", contours
    ),
    ToolRow(
        "score", "Score", "score", "operations:ScoreTool", "operations:OperationSlip", contours
    ),
    ToolRow(
        "engrave",
        "Engrave areas",
        "engrave",
        "operations:EngraveTool",
        "operations:OperationSlip",
        contours,
    ),
    ToolRow(
        "pocket", "Pocket", "pocket", "operations:PocketTool", "operations:OperationSlip", contours
    ),
    ToolRow(
        "drill", "Drill", "drill", "operations:DrillTool", "operations:OperationSlip", contours
    ),
    ToolRow(
        "pen", "Draw with a pen", "pen", "operations:DrawTool", "operations:OperationSlip", contours
    ),
    ToolRow(
        "spots", "Starts and tabs", "spots", "spot_tool:SpotTool", "spot_tool:SpotSlip", contours
    ),
    ToolRow("order", "Order by hand", "order", "order:OrderTool", "order:OrderSlip", contours),
    ToolRow("clearance", "Clearance of a fit", "fit", "order:FitTool", "order:FitSlip", contours),
    ToolRow(
        "machine", "Machine", "machine", "machine_slip:MachineTool", "machine_slip:MachineSlip"
    ),
)
