"""Keys, chords and sequences: the notation both ways, platforms, keyboards. What a press of them is, is in `pressing`."""
