"""Ombix: define, audit and port keyboard bindings across editors, with evidence."""

__version__ = "0.1.0"
