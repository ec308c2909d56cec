"""True up: its list of tools, the tools and their slips."""
