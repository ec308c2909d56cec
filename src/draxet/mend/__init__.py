"""Stage 4: contours become closed and clean."""
