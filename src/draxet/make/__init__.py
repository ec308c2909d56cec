"""Stage 5: contours get operations."""
