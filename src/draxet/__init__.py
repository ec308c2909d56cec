"""Draxet: from a picture to true-size, closed, machine-ready contours."""

__version__ = "0.1.0"
