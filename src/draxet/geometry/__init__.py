"""Points, affine maps, spans, contours and what is computed on them."""
