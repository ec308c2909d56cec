"""The tools of Trace."""

from draxet.ui.model.session import Session
from draxet.ui.stages.row import ActRow, Hands, ToolRow, contours, picture

__all__ = ["TOOLS"]


def _last_shape(hands: Hands) -> None:
    """The shape that was drawn last is drawn again."""
    from draxet.ui.stages.trace.drawing_tool import draw_settings  # not needed to show a window

    session: Session = hands.session
    session.messages.tool_asked.emit(draw_settings(session).shape)


TOOLS = (
    ToolRow("edges", "Edges", "edges", "ink:EdgesTool", "ink:EdgesSlip", picture, key="Q"),
    ToolRow(
        "middles", "Middles", "middles", "ink:MiddlesTool", "ink:MiddlesSlip", picture, key="W"
    ),
    ToolRow(
        "colours",
        "Colours",
        "colours",
        "colours_tool:ColoursTool",
        "colours_tool:ColoursSlip",
        picture,
        key="E",
    ),
    ToolRow(
        "trace-area",
        "Chosen area",
        "region",
        "area:ChosenAreaTool",
        "area:ChosenAreaSlip",
        picture,
        key="R",
    ),
    ToolRow(
        "nearness",
        "Compare",
        "near",
        "nearness:NearnessTool",
        "nearness_slip:NearnessSlip",
        contours,
        key="T",
    ),
    ToolRow("draw", "Draw", "draw", "draw_tools:DrawTool", "drawing_slip:DrawingSlip", key="A"),
    ToolRow(
        "walk",
        "Edge walk",
        "walk",
        "walk_tool:WalkTool",
        "drawing_slip:DrawingSlip",
        picture,
        key="S",
    ),
    ToolRow(
        "freehand",
        "Freehand",
        "freehand",
        "draw_tools:FreehandTool",
        "drawing_slip:DrawingSlip",
        key="D",
    ),
    ActRow("shape", "Circle, box and others", "shapes", _last_shape, key="F"),
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
        "ellipse_tool:EllipseTool",
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
    ToolRow("text", "Text", "text", "text:TextTool", "text_slip:TextSlip", key="G"),
    ToolRow(
        "symmetry",
        "Symmetry",
        "symmetry",
        "symmetry:SymmetryTool",
        "symmetry:SymmetrySlip",
        key="Z",
    ),
    ToolRow("guide", "Guide", "guide", "guide:GuideTool", "guide:GuideSlip", key="X"),
    ToolRow("point", "Point", "point", "point:PointTool", "point:PointSlip", key="C"),
    ToolRow(
        "construct", "Construct", "construct", "point:ConstructTool", "point:ConstructSlip", key="V"
    ),
)
