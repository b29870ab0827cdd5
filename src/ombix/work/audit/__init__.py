"""What is wrong with a keymap, for people and for pipelines. What mends it is in `mend`."""
