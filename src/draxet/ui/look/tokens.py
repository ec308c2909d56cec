"""The look in numbers: every colour and size that the window uses."""

from __future__ import annotations

from draxet.record import record

__all__ = ["LIGHT", "Tokens"]


@record(frozen=True)
class Tokens:
    """Colours as #rrggbb; sizes in pixels."""

    marking_blue: str = "#1E3550"
    card_open: str = "#284A70"
    card_line: str = "#35506F"
    card_text: str = "#F4F6F9"
    card_quiet: str = "#B4C1D2"
    card_note: str = "#E6BE6E"
    card_sound: str = "#8FD3A8"
    bench: str = "#D9D6CE"
    sheet: str = "#F4F1EA"
    sheet_edge: str = "#B9B4A6"
    edge: str = "#87827A"
    bar: str = "#ECE9E2"
    slip: str = "#F8F6F1"
    field: str = "#FFFFFF"
    line: str = "#CFCABF"
    graphite: str = "#26282B"
    quiet: str = "#63666A"
    brass: str = "#A06C1C"
    brass_text: str = "#85590F"
    ring: str = "#9A6A1D"
    brass_wash: str = "#EDE4D2"
    moss: str = "#3C8259"
    moss_text: str = "#2C6A46"
    coral: str = "#CF4A3C"
    coral_text: str = "#B2352A"
    coral_wash: str = "#F6E0DB"
    halo: str = "#B8F4F1EA"
    """With its opacity before it, as Qt reads it."""
    stays: str = "#DCE3EB"
    falls: str = "#E7E1D2"
    dark_tag: str = "#26282B"
    cut: str = "#5D7796"
    cut_tag: str = "#1E3550"
    card_width: int = 232
    slip_width: int = 288
    grid: int = 8


LIGHT = Tokens()
