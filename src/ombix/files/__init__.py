"""Ombix's own files: read, edited with their comments, written in one way, taken back. Editors' files are in `editors`."""
