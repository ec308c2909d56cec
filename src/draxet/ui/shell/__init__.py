"""Window, route card, facts strip, commands, workers."""
