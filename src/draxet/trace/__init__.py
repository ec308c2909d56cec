"""Stage 3: pictures become contours."""
