"""What the window works on, without a window: the job and its history, what is chosen, the tool in hand, workers and what they work out."""
