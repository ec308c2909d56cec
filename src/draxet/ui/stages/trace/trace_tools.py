"""The tools of Trace."""

from draxet.ui.model.session import Session
from draxet.ui.stages.row import ActRow, Hands, ToolRow, contours, picture

__all__ = ["TOOLS"]


def _last_shape(hands: Hands) -> None:
    """The shape that was drawn last is drawn again."""
    from draxet.ui.stages.trace.drawing_tool import draw_settings  # not needed to show a window

    session: Session = hands.session
    session.tool_asked.emit(draw_settings(session).shape)


TOOLS = (
    ToolRow("edges", "Edges", "edges", "ink:EdgesTool", "ink:EdgesSlip", picture),
    ToolRow("middles", "Middles", "middles", "ink:MiddlesTool", "ink:MiddlesSlip", picture),
    ToolRow(
        "colours",
        "Colours",
        "colours",
        "colours_tool:ColoursTool",
        "colours_tool:ColoursSlip",
        picture,
    ),
    ToolRow(
        "trace-area", "Chosen area", "region", "area:ChosenAreaTool", "area:ChosenAreaSlip", picture
    ),
    ToolRow(
        "nearness",
        "Compare",
        "near",
        "nearness:NearnessTool",
        "nearness_slip:NearnessSlip",
        contours,
    ),
    ToolRow("draw", "Draw", "draw", "draw_tools:DrawTool", "drawing_slip:DrawingSlip"),
    ToolRow("walk", "Edge walk", "walk", "walk_tool:WalkTool", "drawing_slip:DrawingSlip", picture),
    ToolRow(
        "freehand", "Freehand", "freehand", "draw_tools:FreehandTool", "drawing_slip:DrawingSlip"
    ),
    ActRow("shape", "Circle, box and others", "shapes", _last_shape),
    ToolRow(
        "circle",
        "Circle",
        "circle",
        "primitives:CircleTool",
        "drawing_slip:DrawingSlip",
        of="shape",
    ),
    ToolRow("arc", "Arc", "arc", "primitives:ArcTool", "drawing_slip:DrawingSlip", of="shape"),
    ToolRow(
        "ellipse",
        "Ellipse",
        "ellipse",
        "primitives:EllipseTool",
        "drawing_slip:DrawingSlip",
        of="shape",
    ),
    ToolRow("box", "Box", "box", "primitives:BoxTool", "drawing_slip:DrawingSlip", of="shape"),
    ToolRow(
        "polygon",
        "Polygon",
        "polygon",
        "primitives:PolygonTool",
        "drawing_slip:DrawingSlip",
        of="shape",
    ),
    ToolRow("slot", "Slot", "slot", "primitives:SlotTool", "drawing_slip:DrawingSlip", of="shape"),
    ToolRow("text", "Text", "text", "text:TextTool", "text_slip:TextSlip"),
    ToolRow("symmetry", "Symmetry", "symmetry", "symmetry:SymmetryTool", "symmetry:SymmetrySlip"),
    ToolRow("guide", "Guide", "guide", "guide:GuideTool", "guide:GuideSlip"),
    ToolRow("point", "Point", "point", "point:PointTool", "point:PointSlip"),
    ToolRow("construct", "Construct", "construct", "point:ConstructTool", "point:ConstructSlip"),
)
