"""What the editors of a workspace would obey: each with the keymap in its file."""

from collections.abc import Mapping, Sequence

from ombix.core.conditions import Space
from ombix.core.keymap.bindings import Keymap, Layer
from ombix.core.keymap.deciding import decide_all
from ombix.core.keys.platforms import Platform
from ombix.core.pressing.terminals import as_arriving, in_terminal
from ombix.editors.dialect import Dialect
from ombix.editors.editor_porting import Surroundings
from ombix.editors.obeyed_keymap import ObeyedKeymap, ObeyedTables, is_own_file, obeyed_keymap
from ombix.files.workspace_file import WorkspaceEditor, WorkspaceFile
from ombix.workspace.context import terminal_of
from ombix.workspace.resources import Resources


def adopted_homes(
    layers: Sequence[Layer], workspace: WorkspaceFile | None, resources: Resources
) -> Mapping[str, Dialect]:
    """The editors of adopted layers, by their names in the workspace."""
    names = {layer.name.editor for layer in layers if layer.name.kind == "adopted" and layer.name.editor}
    editors = workspace.editors if workspace is not None else {}
    found: dict[str, Dialect] = {}
    for name in names:
        editor = editors.get(name) or WorkspaceEditor(name, name)
        if "/" in editor.dialect or resources.dialects.knows(editor.dialect):
            found[name] = resources.dialect(editor)  # one that is not known any more decides nothing
    return found


def port_space(keymap: Keymap, source: Dialect | None, target: Dialect, resources: Resources) -> Space:
    """The states of both sides of a port; what an editor excludes holds in that editor only."""
    facts = resources.shipped.facts()
    if source is not None:
        return Space(facts.extended([*source.facts, *target.facts], []))
    return keymap.space(facts.extended(target.facts, []))


def obeyed(
    layers: Sequence[Layer],
    editor: WorkspaceEditor,
    platform: Platform,
    workspace: WorkspaceFile | None,
    resources: Resources,
) -> ObeyedKeymap | None:
    """What an editor would obey with a keymap of these layers, without an editor's defaults, in its file; None where they are
    nothing but what was read from that file. Raises OutsideError where the keymap cannot be written for it."""
    dialect = resources.dialect(editor)
    own = [layer for layer in layers if layer.name.kind != "defaults"]
    if is_own_file(own, editor.name, editor.dialect):
        return None
    keymap = Keymap(own)
    terminal = terminal_of(editor, dialect, resources)
    around = Surroundings(
        in_terminal(platform, terminal), terminal, port_space(keymap, None, dialect, resources),
        resources.shipped.catalogue(), editor.careful, adopted_homes(own, workspace, resources),
    )  # fmt: skip
    return obeyed_keymap(keymap, editor.name, dialect, around)


def decided_in(
    found: ObeyedKeymap | None, layers: Sequence[Layer], editor: WorkspaceEditor, platform: Platform, space: Space,
    resources: Resources,
) -> ObeyedTables:  # fmt: skip
    """The decisions of an editor over a space: with what `obeyed` found for these layers; or with the layers themselves, where they
    were read from the editor's own file, or there are none."""
    catalogue, dialect = resources.shipped.catalogue(), resources.dialect(editor)
    if found is not None:
        return found.tables(space, catalogue)
    own = [layer for layer in layers if layer.name.kind != "defaults"]
    terminal = terminal_of(editor, dialect, resources)
    bindings = as_arriving(
        Keymap([dialect.default_layer, *own]).in_force(in_terminal(platform, terminal)).bindings, terminal
    )
    return ObeyedTables(decide_all(bindings, space, catalogue, dialect.policy), bindings, {})
