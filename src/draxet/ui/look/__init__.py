"""Tokens, stylesheet, typeface and icons."""
