"""Sheets to print, and practice."""
