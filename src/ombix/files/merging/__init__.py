"""Three-way merges of keymap and workspace files by what they mean, with the comments and the order of both sides kept."""
