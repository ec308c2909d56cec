"""One module for each file format: read, write, read-back."""
