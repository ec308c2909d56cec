"""Contours through samples: corners, lines, arcs and cubics by least squares."""
