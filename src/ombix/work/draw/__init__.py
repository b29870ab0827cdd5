"""The keyboard as a picture, and the keymap as a page."""
