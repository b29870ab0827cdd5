"""What Ombix knows by itself: editors, layouts, keyboards, terminals, desktops; and whether a description holds."""

from collections.abc import Iterator
from pathlib import Path

from ombix.core.catalogue.actions import Catalogue
from ombix.core.keys.notation import write
from ombix.data.platform_names import this_platform
from ombix.editors import description_check
from ombix.editors.command_effects import EffectJudge
from ombix.editors.dialect import Dialect
from ombix.files.disk import absolute
from ombix.work.describe.editors_answer import (
    DefaultKey,
    DescriptionReport,
    DescriptionTest,
    EditorAbilities,
    EditorList,
    KnownCommand,
)
from ombix.workspace.resources import Resources


def editors(resources: Resources) -> EditorList:
    """All editors that have a description."""
    return EditorList(tuple(abilities(resources.dialects.load(name)) for name in resources.dialects.names()))


def abilities(one: Dialect, catalogue: Catalogue | None = None) -> EditorAbilities:
    """What an editor's file can express, and how the editor decides; with the `catalogue`, also how what its commands do
    differs from their actions."""
    from ombix.evidence.editor_host import is_installed

    description, commands = one.description, one.vocabulary.commands
    file, program = description.file, description.program
    documented = [row for row in commands.values() if row.documented]
    return EditorAbilities(
        one.name, description.title, description.version, file.name, file.format, tuple(file.usual),
        dict(description.sections), len(one.spelling.chords()), description.keys.longest, len(documented),
        sum(1 for row in documented if row.action), len(one.default_layer.bindings),
        program is not None and is_installed(program), description.simulated, _can_tell(one), one.policy.wins,
        one.policy.prefix, one.policy.wait_ms, tuple(description.sources), tuple(description.notes),
        dict(_commands(one, catalogue)),
        tuple(DefaultKey(write(binding.trigger), str(binding.outcome), binding.where) for binding in one.default_layer.bindings),
    )  # fmt: skip


def _commands(one: Dialect, catalogue: Catalogue | None) -> Iterator[tuple[str, KnownCommand]]:
    judge = EffectJudge(None, one, catalogue) if catalogue is not None else None
    for name, row in one.vocabulary.commands.items():
        found = None
        if judge is not None and row.action and not row.arguments and not row.given:
            found = judge.from_action(row.action, one.vocabulary.sections_of(row)[0], row.written or name)
        differs = found.sentence if found is not None and not found.is_equal else ""
        yield name, KnownCommand(row.action or None, row.only or None, differs or None)


def _can_tell(one: Dialect) -> tuple[str, ...]:
    """The facts that a binding's condition may speak of, beside its section."""
    words, conditions = one.description.file.words, one.description.conditions
    found = [words.language] if words is not None and words.language else []
    if conditions is not None:
        meanings = [meaning.replace("{value}", "x") for meaning in conditions.words.values()]
        found += [name for meaning in meanings for name in one.space.mentioned(one.space.parse(meaning))]
    return tuple(sorted(set(found)))


def check_description(folder: Path, resources: Resources) -> DescriptionReport:
    """Test a description of one's own. Raises InputError where it cannot be loaded."""
    one = resources.dialects.load(absolute(folder))
    shipped = resources.shipped
    found = description_check.check(
        one, shipped.catalogue(), shipped.facts(), shipped.platform(this_platform()), resources.dialects
    )
    tests = tuple(DescriptionTest(each.title, each.count, each.faults) for each in found)
    return DescriptionReport(one.name, one.description.title, one.description.version, tests)
