"""The tools of Trace."""

from draxet.ui.stages.row import ToolRow, contours, picture

__all__ = ["TOOLS"]

TOOLS = (
    ToolRow("edges", "Edges", "edges", "ink:EdgesTool", "ink:EdgesSlip", picture),
    ToolRow("middles", "Middles", "middles", "ink:MiddlesTool", "ink:MiddlesSlip", picture),
    ToolRow("colours", "Colours", "colours", "colours:ColoursTool", "colours:ColoursSlip", picture),
    ToolRow("trace-area", "Chosen area", "region", "area:ChosenAreaTool", "area:ChosenAreaSlip", picture),
    ToolRow("nearness", "Compare", "near", "nearness:NearnessTool", "nearness:NearnessSlip", contours),
    ToolRow("draw", "Draw", "draw", "draw:DrawTool", "drawing_slip:DrawingSlip"),
    ToolRow("walk", "Edge walk", "walk", "walk:WalkTool", "drawing_slip:DrawingSlip", picture),
    ToolRow("freehand", "Freehand", "freehand", "draw:FreehandTool", "drawing_slip:DrawingSlip"),
    ToolRow("arc", "Arc", "arc", "primitives:ArcTool", "drawing_slip:DrawingSlip"),
    ToolRow("circle", "Circle", "circle", "primitives:CircleTool", "drawing_slip:DrawingSlip"),
    ToolRow("ellipse", "Ellipse", "ellipse", "primitives:EllipseTool", "drawing_slip:DrawingSlip"),
    ToolRow("box", "Box", "box", "primitives:BoxTool", "drawing_slip:DrawingSlip"),
    ToolRow("polygon", "Polygon", "polygon", "primitives:PolygonTool", "drawing_slip:DrawingSlip"),
    ToolRow("slot", "Slot", "slot", "primitives:SlotTool", "drawing_slip:DrawingSlip"),
    ToolRow("guide", "Guide", "guide", "guide:GuideTool", "guide:GuideSlip"),
)
