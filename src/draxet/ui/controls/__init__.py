"""The controls of slips and dialogs."""
