"""Keymaps carried to and from editors: each a function of an opened workspace."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pathlib import Path

    from ombix.work.carry.adopt import Read
    from ombix.work.carry.adopt_answer import Adoption, StartReport
    from ombix.work.carry.apply import Applying, ApplyOptions
    from ombix.work.carry.apply_answer import ApplyReport, StatusReport
    from ombix.work.carry.compare_answer import ComparisonReport
    from ombix.work.carry.port import MadePort, PortOptions
    from ombix.work.carry.port_answer import PortReport
    from ombix.work.carry.prove import PressedIn
    from ombix.work.carry.prove_answer import ProofReport
    from ombix.workspace.open_workspace import OpenWorkspace


def make_ports(
    workspace: OpenWorkspace, *to: str, source: str = "", on: str = "", rehome: bool = False, careful: bool = False
) -> list[MadePort]:  # fmt: skip
    """Ports to the editors named (none: to all of the workspace), not written yet.

    `source` is an editor, for its default keys, or a file; without one, what was opened is ported.
    """
    from ombix.core.gc_pause import no_garbage_collection
    from ombix.work.carry import port

    with no_garbage_collection():
        origin = port.origin(workspace.opener, workspace.resources, source)
        names = list(dict.fromkeys(to)) or workspace.all_editors()
        options = port.PortOptions(rehome, careful)
        made = [
            port.port(origin, name, workspace.opener.target(name, on), workspace.resources, options) for name in names
        ]
        workspace.resources.tables.keep()
        return made


def port(
    workspace: OpenWorkspace, *to: str, source: str = "", on: str = "", rehome: bool = False, careful: bool = False
) -> tuple[PortReport, ...]:  # fmt: skip
    """The accounts of ports; nothing is written."""
    from ombix.work.carry import port

    return tuple(map(port.report, make_ports(workspace, *to, source=source, on=on, rehome=rehome, careful=careful)))


def write_ports(
    workspace: OpenWorkspace, made: Sequence[MadePort], output: str = "", reports: Mapping[str, str] | None = None,
    dry_run: bool = False,
) -> list[Path]:  # fmt: skip
    """Write ports to their places, or one to `output`, with `reports` (their texts by file) beside them."""
    from ombix.workspace.resources import user_path

    folder = workspace.opener.folder
    texts = {user_path(output, folder) if output else one.path: one.file.text for one in made}
    texts |= {user_path(name, folder): text for name, text in (reports or {}).items()}
    given = [user_path(name, folder) for name in (output, *(reports or {})) if name]
    command = f"port --to {' --to '.join(one.name for one in made)}"
    return workspace.writer(*given).change(command, lambda: texts, dry_run)


def compare(
    workspace: OpenWorkspace, first: str, second: str, *, editor: str = "", on: str = "", within: str = ""
) -> ComparisonReport:
    """Two of editors, keymap files and editors' own files (those of `editor`), decision by decision; with a condition in its states
    only."""
    from ombix.work.carry import compare

    workspace.tell_faults()
    one, other = (compare.side(text, editor, workspace.opener, workspace.resources) for text in (first, second))
    return compare.report(one, other, workspace.opener.platform(on), workspace.resources, within)


def prove(
    workspace: OpenWorkspace, to: str, *, source: str = "", file: str = "", press_in: PressedIn = "target", on: str = "",
    options: PortOptions | None = None,
    progress: Callable[[int], Callable[[], None]] = lambda count: lambda: None,
) -> ProofReport:  # fmt: skip
    """Press the keys of a port in the real editor, on the `stage` in its simulation, or in `both`: also in the editor that
    it comes from; with `file` in its place."""
    from ombix.work.carry import prove
    from ombix.workspace import description_trust
    from ombix.workspace.resources import user_path

    rehome, careful = options or (False, False)
    made = make_ports(workspace, to, source=source, on=on, rehome=rehome, careful=careful)[0]
    staged = press_in == "stage" or made.target.description.simulated
    if not staged:
        description_trust.require_trusted(made.target, workspace.resources.dialects, workspace.trusted())
        prove.require_program(made.target, made.name)
    against = prove.require_source(made) if press_in == "both" and not staged else None
    if against is not None:
        description_trust.require_trusted(against, workspace.resources.dialects, workspace.trusted())
    text, name = made.file.text, "the ported file"
    if file:
        text, name = workspace.resources.files.read_text(user_path(file, workspace.opener.folder)), file
    proved = prove.press_all(made, text, name, staged, progress, against)
    return prove.report(made, proved, staged, against)


def adopt(workspace: OpenWorkspace, file: str, *, editor: str = "", name: str = "", dry_run: bool = False) -> Adoption:
    """Read an editor's own file into the workspace as a layer."""
    from ombix.work.carry import adopt
    from ombix.workspace.resources import user_path

    found = adopt.read(user_path(file, workspace.opener.folder), editor, name, workspace.opener, workspace.resources)
    return adopt.adopt(found, workspace.opener, workspace.resources, workspace.writer(), dry_run)


def apply(workspace: OpenWorkspace, options: ApplyOptions) -> ApplyReport:
    """Write the keymap into the editors' own files."""
    return applying(workspace).apply(options)


def status(workspace: OpenWorkspace, *editors: str) -> StatusReport:
    """Where the editors of the workspace stand (none named: all)."""
    return applying(workspace).status(editors)


def applying(workspace: OpenWorkspace) -> Applying:
    from ombix.work.carry.apply import Applying

    return Applying(
        workspace.opener, workspace.resources, workspace.state_folder(), workspace.writer, workspace.is_trusted
    )


def files_on_this_machine(workspace: OpenWorkspace) -> list[Read]:
    """The key files of known editors at their usual places."""
    from ombix.work.carry import adopt

    return adopt.on_this_machine(workspace.opener, workspace.resources)


def start(
    workspace: OpenWorkspace, name: str, found: Sequence[Read] = (), chosen: Sequence[str] = (), dry_run: bool = False
) -> StartReport:
    """Start a workspace in the folder of the call, with the files of the editors chosen as layers (`all`: of all)."""
    from ombix.files.writer import Writer
    from ombix.work.carry import adopt

    writer = Writer(workspace.state_folder(), workspace.opener.folder, (), workspace.say)
    taken, folder = adopt.choose(found, chosen), workspace.opener.folder
    return adopt.start(name, found, taken, folder, workspace.resources, writer, dry_run)
