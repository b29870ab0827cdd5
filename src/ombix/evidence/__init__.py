"""Evidence: keys are pressed in a real editor, and what happens is held against what should."""
