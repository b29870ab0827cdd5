"""The model and its reasoning: keys, conditions, keymaps, audit, porting. No files, no terminal; values in, values out."""
