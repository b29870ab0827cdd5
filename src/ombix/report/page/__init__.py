"""One page of HTML that holds a keymap: what it looks like, and a script that looks decisions up."""
