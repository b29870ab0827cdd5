"""A workspace opened once, and what questions share: caches, decisions, what would change. It answers nothing itself."""
