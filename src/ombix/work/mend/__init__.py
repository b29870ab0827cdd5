"""Fixes for findings: tried before they are proposed, chosen one by one, by a plan, or all at the least cost."""
