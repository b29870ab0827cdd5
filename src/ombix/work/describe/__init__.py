"""Editors and what they can express: those that are known, those that a user describes, and what packages bring."""
