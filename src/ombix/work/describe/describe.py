"""Drafts a description of an editor that Ombix does not know, tests it, and writes it."""

import re
import tempfile
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from msgspec import Struct

from ombix.core.conditions import NEVER, Space
from ombix.core.errors import InputError, OmbixError, Place, did_you_mean
from ombix.core.keymap.outcomes import Do
from ombix.core.keys.notation import parse, write
from ombix.editors.drafting.action_proposals import Proposer
from ombix.editors.drafting.description_writing import Draft, Given, beginning, draft
from ombix.editors.included_files import statements_with
from ombix.files.disk import MAX_EDITOR_FILE_SIZE, absolute
from ombix.files.writer import Contents, Writer
from ombix.work.describe.describe_answer import CommandProposal, DraftReport, ProposedAction, StateProposal
from ombix.work.describe.editors_answer import DescriptionTest
from ombix.work.describe.inventory import check_description
from ombix.workspace.resources import Resources, user_path

_NAME = re.compile(r"[a-z][a-z0-9-]{0,39}")


class DraftRequest(Struct, frozen=True):
    """What is to be drafted: the files with samples, commands and default keys, the editor's name (else as the first sample), the
    folder to write (else NAME), and what was answered: actions of commands and states of words."""

    samples: Sequence[str]
    commands: Sequence[str] = ()
    defaults: Sequence[str] = ()
    name: str = ""
    output: str = ""
    actions: Mapping[str, str] = {}
    states: Mapping[str, str] = {}


def describe(
    wanted: DraftRequest, here: Path, resources: Resources, writer: Callable[..., Writer], dry_run: bool
) -> DraftReport:
    """Draft a description, test it, and write it unless `dry_run`. `writer` gives what writes to files that are named besides
    those of the workspace. Raises InputError."""
    name = wanted.name or re.sub(r"[^a-z0-9]+", "-", Path(wanted.samples[0]).stem.lower()).strip("-")
    if not _NAME.fullmatch(name):
        raise InputError(
            f"{name or 'nothing'} is no name for an editor", "Name it with --name: small letters, digits and -."
        )
    if name in resources.dialects.names():
        raise InputError(f"Ombix knows an editor called {name} already", "Give this one another --name.")
    catalogue = resources.shipped.catalogue()
    for action in wanted.actions.values():
        if action not in catalogue.actions:
            raise InputError(
                f"there is no action {action}", did_you_mean(action, list(catalogue.actions)) or "See: ombix how WORDS"
            )
    given = Given(
        [_read(path, here, resources) for path in wanted.samples], [_read(path, here, resources) for path in wanted.commands],
        [_read(path, here, resources) for path in wanted.defaults], wanted.actions, wanted.states,
    )  # fmt: skip
    made = draft(name, given, proposer(resources), overlapping(resources))
    tests, unread = _tried(made, given, resources)
    missing = list(made.missing)
    if len(unread) > len(made.shape.others):
        count = "1 statement" if len(unread) == 1 else f"{len(unread)} statements"
        missing.append(f"what it does not read of the sample: {count}, like: {beginning(unread[0])}")
    folder = user_path(wanted.output, here) if wanted.output else here / name

    def decide() -> Contents:
        for file in made.files:
            if (folder / file).exists():
                raise InputError(
                    "this file is there already",
                    "Nothing was changed. Name another folder with --output.",
                    Place(absolute(folder / file)),
                )
        return {folder / file: text for file, text in made.files.items()}

    given_by_name = [folder / file for file in made.files] if wanted.output else []
    written = writer(*given_by_name).change("describe", decide, dry_run)
    return DraftReport(
        name, Place(absolute(folder)), made.shape.format, tuple(form.pattern for form in made.shape.forms), len(made.shape.records),
        made.defaults, tuple(_proposals(made, resources)),
        tuple(StateProposal(state.word, state.means, state.may_mean) for state in made.states),
        dict(made.shape.spelling.modifiers), len(made.shape.spelling.names), tuple(missing), tests,
        tuple(Place(absolute(one)) for one in written),
    )  # fmt: skip


def overlapping(resources: Resources) -> Callable[[str, str], bool]:
    """What tells whether two conditions can hold at once; of what is no condition nothing is said."""
    space = Space(resources.shipped.facts())

    def overlap(one: str, other: str) -> bool:
        try:
            return space.both(space.states(one), space.states(other)) != NEVER
        except (OmbixError, ValueError):
            return False

    return overlap


def proposer(resources: Resources) -> Proposer:
    """What proposes actions, with the keys that the known editors have for them."""
    usual: dict[str, dict[str, set[str]]] = {}
    for name in resources.dialects.names():
        one = resources.dialects.load(name)
        if one.description.simulated:
            continue
        for binding in one.default_layer.bindings:
            if isinstance(binding.outcome, Do):
                usual.setdefault(write(binding.trigger), {}).setdefault(binding.outcome.action, set()).add(name)
    catalogue = resources.shipped.catalogue()
    index = resources.shipped.search_index()
    counted = {keys: {action: len(names) for action, names in found.items()} for keys, found in usual.items()}
    return Proposer(catalogue, index, counted, _portable)


def _portable(keys: str) -> str:
    """Keys in the one spelling that the known editors' are in; empty where they are none."""
    try:
        return write(parse(keys))
    except OmbixError:
        return ""


def _read(file: str, here: Path, resources: Resources) -> tuple[str, str]:
    path = user_path(file, here)
    return path.name, resources.files.read_text(path, most=MAX_EDITOR_FILE_SIZE)


def _proposals(made: Draft, resources: Resources) -> list[CommandProposal]:
    actions = resources.shipped.catalogue().actions
    return [
        CommandProposal(
            proposal.command, proposal.said, proposal.action if proposal.is_sure else "",
            tuple(
                ProposedAction(candidate.action, actions[candidate.action].title, candidate.score)
                for candidate in proposal.candidates
            ),
        )
        for proposal in made.proposals
    ]  # fmt: skip


def _tried(made: Draft, given: Given, resources: Resources) -> tuple[tuple[DescriptionTest, ...], list[str]]:
    """The tests of a draft, in a folder that is gone behind them; and the statements of the samples that it does not read, but for
    those in sections that nobody knows yet."""
    with tempfile.TemporaryDirectory(prefix="ombix-draft-") as folder:
        for file, text in made.files.items():
            (Path(folder) / file).write_text(text, "utf-8")
        try:
            tests = check_description(Path(folder), resources).checks
            dialect = resources.dialects.load(folder)
            statements = [one for file, text in given.samples for one in statements_with(dialect, text, file, None)]
        except OmbixError as error:
            return (DescriptionTest("the draft as a whole", 1, (str(error),)),), []
    unread = [
        statement
        for statement in statements
        if statement.kind == "keep" and statement.is_fault and not statement.section
    ]
    return tests, [one.written for one in unread]
