"""The document: frozen records, edits as functions, history, the .draxet file."""
