"""How files, editors and layouts are laid out: `adopt`, `bind`, `undo`, `fold`, `editors`, `layouts`, `init`, and more."""

_UNDOES = {"restore": "", "merge": "keeps what was changed since", "collides": "the same lines were changed since"}


# --- editors


# --- workspaces
