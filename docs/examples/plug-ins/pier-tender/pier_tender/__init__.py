"""Describes the editor in the tender: data only."""
