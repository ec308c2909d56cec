"""The document: frozen records, edits as functions, history, the .draxet file."""

from draxet.job.layout import laid_out  # which gives jobs their layouts

__all__ = ["laid_out"]
