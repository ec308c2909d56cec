"""The tools of Make."""

from draxet.ui.stages.row import ToolRow, contours

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow(
        "cut",
        "Cut through",
        "cut",
        "operations:CutTool",
        "operations:OperationSlip",
        contours,
        key="Q",
    ),
    ToolRow(
        "score",
        "Score",
        "score",
        "operations:ScoreTool",
        "operations:OperationSlip",
        contours,
        key="W",
    ),
    ToolRow(
        "engrave",
        "Engrave areas",
        "engrave",
        "operations:EngraveTool",
        "operations:OperationSlip",
        contours,
        key="E",
    ),
    ToolRow(
        "pocket",
        "Pocket",
        "pocket",
        "operations:PocketTool",
        "operations:OperationSlip",
        contours,
        key="R",
    ),
    ToolRow(
        "drill",
        "Drill",
        "drill",
        "operations:DrillTool",
        "operations:OperationSlip",
        contours,
        key="T",
    ),
    ToolRow(
        "pen",
        "Draw with a pen",
        "pen",
        "operations:DrawTool",
        "operations:OperationSlip",
        contours,
        key="A",
    ),
    ToolRow(
        "spots",
        "Starts and tabs",
        "spots",
        "spot_tool:SpotTool",
        "spot_tool:SpotSlip",
        contours,
        key="S",
    ),
    ToolRow(
        "order", "Order by hand", "order", "order:OrderTool", "order:OrderSlip", contours, key="D"
    ),
    ToolRow(
        "clearance",
        "Clearance of a fit",
        "fit",
        "order:FitTool",
        "order:FitSlip",
        contours,
        key="F",
    ),
    ToolRow(
        "machine",
        "Machine",
        "machine",
        "machine_slip:MachineTool",
        "machine_slip:MachineSlip",
        key="G",
    ),
    ToolRow(
        "stitch",
        "Stitch",
        "stitch",
        "stitch_tool:StitchTool",
        "operations:OperationSlip",
        contours,
        key="Z",
    ),
    ToolRow(
        "raise",
        "Raise or sink",
        "raise",
        "raise_tool:RaiseTool",
        "operations:OperationSlip",
        contours,
        key="X",
    ),
)
