"""Stage 1: pictures come in."""
