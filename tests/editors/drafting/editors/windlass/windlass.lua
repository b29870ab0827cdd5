-- windlass: keys by mode
return {
  typing = {
    ["<C-s>"] = "File.save",
    ["<C-S-s>"] = "File.saveAll",
    ["<C-z>"] = "Text.undo",
    ["<C-y>"] = "Text.redo",
    ["<C-k>"] = "Text.deleteLine",
    ["<C-Left>"] = "Caret.wordLeft",
    ["<C-Right>"] = "Caret.wordRight",
    ["<C-Home>"] = "Caret.top",
    ["<C-End>"] = "Caret.bottom",
    ["<A-Up>"] = "Line.up",
    ["<A-Down>"] = "Line.down",
    ["<C-d>"] = "Line.duplicate",
    ["<C-f>"] = "Find.open",
    ["<F3>"] = "Find.next",
    ["<S-F3>"] = "Find.previous",
    ["<C-x>"] = "Clip.cut",
    ["<C-c>"] = "Clip.copy",
    ["<C-v>"] = "Clip.paste",
    ["<C-a>"] = "Mark.all",
    ["<S-Left>"] = "Mark.left",
    ["<S-Right>"] = "Mark.right",
    ["<PageUp>"] = "Caret.pageUp",
    ["<PageDown>"] = "Caret.pageDown",
    ["<C-r><C-u>"] = "Text.upper",
    ["<C-w>"] = false,
  },
  -- where files are listed
  list = {
    ["<C-n>"] = "File.new",
    ["<C-o>"] = "File.open",
    ["<C-q>"] = "App.quit",
    ["<F2>"] = "File.open",
    ["<Delete>"] = false
  }
}
