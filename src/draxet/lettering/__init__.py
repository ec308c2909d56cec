"""Words as contours: the faces there are, and their outlines set straight or along a contour."""
