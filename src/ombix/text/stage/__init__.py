"""A simulated editor: its state, and the machine that does actions on it by decisions."""
