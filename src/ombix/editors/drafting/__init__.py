"""Drafts a description of an editor from samples of its files and lists of its commands."""
