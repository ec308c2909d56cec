"""Stage 6: the job is checked and handed off."""
