"""Simulated stand-ins for what stands in a workshop."""
