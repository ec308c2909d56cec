"""The tools of True up."""

from draxet.ui.canvas.tool import Prompt
from draxet.ui.stages.row import ToolRow, anything, contours, picture

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow("level", "Level a line", "level", "level:LevelLine", "level:LevelSlip", picture),
    ToolRow(
        "known-length",
        "Known length",
        "length",
        "lengths:KnownLengthTool",
        "lengths:KnownLengthSlip",
        picture,
    ),
    ToolRow(
        "several-lengths",
        "Several lengths",
        "lengths",
        "lengths:SeveralLengthsTool",
        "lengths:SeveralLengthsSlip",
        picture,
    ),
    ToolRow(
        "square", "Square a photo", "square", "square:SquareTool", "square:SquareSlip", picture
    ),
    ToolRow("match", "Match points", "match", "match:MatchTool", "match:MatchSlip", anything),
    ToolRow(
        "which-scale",
        "Drawing scale",
        "scale",
        Prompt(
            "Drawing scale: the slip says at which scale the picture was drawn.",
            "from its resolution and a known length, or set its size by the scale written on it",
        ),
        "scale:ScaleSlip",
        picture,
    ),
    ToolRow(
        "own-scale", "Scale of a detail", "region", "scale:DetailTool", "scale:DetailSlip", picture
    ),
    ToolRow(
        "fixed-size",
        "Fixed size",
        "fixed",
        Prompt(
            "Fixed size: type both sizes of the chosen contours.",
            "a die or a bought part keeps its size, whatever happens to the plan round it",
        ),
        "fixed:FixedSlip",
        contours,
    ),
    ToolRow(
        "measure", "Measure", "measure", "measure:MeasureTool", "measure:MeasureSlip", anything
    ),
)
