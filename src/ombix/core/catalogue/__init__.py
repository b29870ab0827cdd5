"""What editors can be asked to do, named independently of any editor, and how it is found by words."""
