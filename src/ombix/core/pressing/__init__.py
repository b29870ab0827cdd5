"""What it takes to press keys: layouts, terminals, effort, and which keys are free. What keys do is in `keymap`."""
