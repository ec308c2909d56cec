"""Solids: areas raised and sunk, as bodies."""
