"""One module for each stage: its tools and its slip."""
