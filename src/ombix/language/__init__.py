"""The Language Server Protocol: what an editor of texts is told of keymaps while they are written."""
