"""One folder for each stage: its list of tools (``tools.py``), the tools and their slips; beside
them what several stages share."""
