"""Changes to a keymap that a user asks for by name, and taking them back."""
