"""The tools of Gather."""

from draxet.ui.model.tool import Prompt
from draxet.ui.stages.row import ActRow, ToolRow, anything, picture

__all__ = ["TOOLS"]

TOOLS = (
    ActRow(
        "choose",
        "Choose a picture …",
        "picture",
        lambda hands: hands.opening.choose_picture(),
        key="Q",
    ),
    ActRow(
        "paste", "Paste a picture", "paste", lambda hands: hands.opening.paste_picture(), key="W"
    ),
    ActRow("camera", "Camera …", "camera", lambda hands: hands.opening.take_from_camera(), key="E"),
    ToolRow(
        "place",
        "Place",
        "move",
        "place_slip:MovePicture",
        "place_slip:PlaceSlip",
        anything,
        key="R",
    ),
    ToolRow(
        "prepare",
        "Prepare",
        "prepare",
        Prompt(
            "Prepare: add a step on the right.",
            "the file itself is never changed; every step can be switched off",
        ),
        "prepare_slip:PrepareSlip",
        picture,
        key="T",
    ),
    ToolRow(
        "crop",
        "Crop",
        "crop",
        "prepare_tools:CropTool",
        "prepare_slip:PrepareSlip",
        picture,
        key="A",
    ),
    ToolRow(
        "cover",
        "Cover",
        "cover",
        "prepare_tools:CoverTool",
        "prepare_slip:PrepareSlip",
        picture,
        key="S",
    ),
    ToolRow("sheets", "Sheets", "sheet", "sheets:SheetTool", "sheets:SheetSlip", key="D"),
    ToolRow(
        "limits",
        "Limits",
        "limit",
        "limit_tool:LimitTool",
        "limits:LimitSlip",
        key="F",
    ),
)
