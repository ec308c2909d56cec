"""The tools of True up."""

from draxet.ui.model.tool import Prompt
from draxet.ui.stages.row import ToolRow, anything, contours, picture

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow(
        "level", "Level a line", "level", "level:LevelLine", "level:LevelSlip", picture, key="Q"
    ),
    ToolRow(
        "known-length",
        "Known length",
        "length",
        "length_tools:KnownLengthTool",
        "length_tools:KnownLengthSlip",
        picture,
        key="W",
    ),
    ToolRow(
        "several-lengths",
        "Several lengths",
        "lengths",
        "length_tools:SeveralLengthsTool",
        "length_tools:SeveralLengthsSlip",
        picture,
        key="E",
    ),
    ToolRow(
        "square",
        "Square a photo",
        "square",
        "square_tool:SquareTool",
        "square_tool:SquareSlip",
        picture,
        key="R",
    ),
    ToolRow(
        "match", "Match points", "match", "match:MatchTool", "match:MatchSlip", anything, key="T"
    ),
    ToolRow(
        "which-scale",
        "Drawing scale",
        "scale",
        Prompt(
            "Drawing scale: the slip says at which scale the picture was drawn.",
            "from its resolution and a known length, or set its size by the scale written on it",
        ),
        "scale_tools:ScaleSlip",
        picture,
        key="A",
    ),
    ToolRow(
        "own-scale",
        "Scale of a detail",
        "region",
        "scale_tools:DetailTool",
        "scale_tools:DetailSlip",
        picture,
        key="S",
    ),
    ToolRow(
        "fixed-size",
        "Fixed size",
        "fixed",
        Prompt(
            "Fixed size: type both sizes of the chosen contours.",
            "a die or a bought part keeps its size, whatever happens to the plan round it",
        ),
        "fixed_size:FixedSlip",
        contours,
        key="D",
    ),
    ToolRow(
        "measure",
        "Measure",
        "measure",
        "measure:MeasureTool",
        "measure:MeasureSlip",
        anything,
        key="F",
    ),
)
