"""Keymaps carried between editors: read from their files, ported, compared, pressed, and written where they look for them."""
