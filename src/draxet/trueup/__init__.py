"""Stage 2: pictures become true to size."""
