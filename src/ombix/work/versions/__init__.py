"""Keymaps in version control: what changed by meaning, who changed it, and merges."""
