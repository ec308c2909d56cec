"""Thread: areas filled with rows, lines run along, one after the other with short ways between."""
