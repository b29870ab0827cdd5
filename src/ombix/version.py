"""The version of Ombix: the one place that it is written in."""

__version__ = "0.2.0"
