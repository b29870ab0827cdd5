"""Files that give each command its keys, and so take away the default keys that they do not name: to single bindings and
back."""

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from ombix.core.errors import InputError, OmbixError
from ombix.core.keys.notation import Trigger
from ombix.editors.dialect import Dialect
from ombix.editors.formats import Statement


def single_statements(dialect: Dialect, statements: Iterable[Statement]) -> list[Statement]:
    """The statements of a file, one for each key: first what they take away of the default keys, then what they bind.

    What is taken away comes first, as another command of the file may have the key. Of several statements on a command the last
    one says its keys.
    """
    statements = list(statements)
    last_on = {(one.section, one.command, one.platform): at for at, one in enumerate(statements) if one.kind == "bind"}
    removed: list[Statement] = []
    found: list[Statement] = []
    named_at: dict[tuple[str, str], Statement] = {}
    for at, one in enumerate(statements):
        if one.kind != "bind":
            found.append(one)
            continue
        if last_on[one.section, one.command, one.platform] != at:
            found.append(replace(one, kind="structure", note=f"replaced: a later line says the keys of {one.command}"))
            continue
        keys = split_keys(dialect, one.key)
        named_at[one.section, one.command] = one
        named = {trigger for key in keys if (trigger := _trigger(dialect, key)) is not None}
        gone = [key for key, trigger in _default_keys(dialect, one.command, one.section) if trigger not in named]
        removed += [replace(one, kind="remove", key=key, command="") for key in gone]
        found += [replace(one, key=key) for key in keys]
        if not keys and not gone:
            found.append(replace(one, kind="structure", note=f"{one.command} has no keys by default either"))
    if dialect.description.file.names_all and named_at:
        last = [*named_at.values()][-1]
        for section, command in _all_commands(dialect):
            if (section, command) not in named_at:
                gone = [key for key, _trigger in _default_keys(dialect, command, section)]
                removed += [
                    replace(
                        last, kind="remove", key=key, command="", section=section, written=f"no {command}", whole=""
                    )
                    for key in gone
                ]
    return removed + _with_winners(dialect, found, set(named_at))


def _with_winners(dialect: Dialect, statements: list[Statement], named: set[tuple[str, str]]) -> list[Statement]:
    """The statements, without those whose keys run another command: one that the file gives them as well, or that has them by
    default and that the file does not name."""
    holders: dict[tuple[Trigger, str], list[str]] = {}
    for one in statements:
        trigger = _trigger(dialect, one.key) if one.kind == "bind" else None
        if trigger is not None and is_in_file(dialect, one.command):
            holders.setdefault((trigger, one.section), []).append(one.command)
    for (trigger, section), commands in holders.items():
        rest = () if dialect.description.file.names_all else _commands_on(dialect, trigger, section)
        commands += [one for one in rest if (section, one) not in named and one not in commands]
    order = {row.written or name: index for index, (name, row) in enumerate(dialect.vocabulary.commands.items())}
    rule = dialect.description.file.same_keys
    found: list[Statement] = []
    for one in statements:
        trigger = _trigger(dialect, one.key) if one.kind == "bind" else None
        rivals = holders.get((trigger, one.section), []) if trigger is not None else []
        if trigger is None or len(rivals) < 2:
            found.append(one)
            continue
        by_default = [rival for rival in rivals if rival in _commands_on(dialect, trigger, one.section)]
        pool = by_default if rule == "default" and by_default else rivals
        winner = "" if rule == "neither" else min(pool, key=lambda each: order.get(each, len(order)))
        if one.command == winner:
            found.append(one)
            continue
        other = next(rival for rival in rivals if rival != one.command)
        said = f"{one.key} runs {winner}" if winner else f"{dialect.name} does neither this nor {other} on {one.key}"
        found.append(replace(one, kind="keep", note=f"has no effect: {said}", is_fault=True))
        if not winner and by_default:
            found.append(replace(one, kind="remove", command="", written=f"no {other}", whole=""))
    return found


def split_keys(dialect: Dialect, text: str) -> list[str]:
    """The keys that a command is given: as they are written, without blanks around them."""
    file = dialect.description.file
    parts = text.split(file.alternatives) if file.alternatives else [text]
    return [part.strip() for part in parts if part.strip() and part.strip() not in file.no_keys]


def gathered(dialect: Dialect, statements: Iterable[Statement]) -> Iterator[Statement]:
    """What is bound and taken away, one for each key, as statements that give each command that it concerns all of its keys."""
    alternatives = dialect.description.file.alternatives
    joint = alternatives if alternatives.isspace() else f"{alternatives.strip()} "
    before: list[Statement] = []
    keys: dict[tuple[str, str], list[str]] = {}
    first: dict[tuple[str, str], Statement] = {}
    taken: dict[tuple[str, str], set[Trigger]] = {}
    added: dict[tuple[str, str], list[str]] = {}

    def of(section: str, command: str, one: Statement) -> list[str]:
        at = (section, command)
        first.setdefault(at, one)
        return keys.setdefault(at, [key for key, _trigger in _default_keys(dialect, command, section)])

    statements = list(statements)
    for section, command in _all_commands(dialect) if dialect.description.file.names_all and statements else ():
        of(section, command, Statement(statements[0].place, command, "bind", "", command, section))
    for statement in statements:
        if statement.kind not in ("bind", "remove"):
            before.append(statement)
            continue
        trigger = dialect.spelling.read(statement.key)
        if statement.kind == "remove" and (fixed := _not_in_file(dialect, trigger, statement.section)):
            raise InputError(
                f"{dialect.name} cannot take {statement.key} away: its file does not name {fixed}", "", statement.place
            )
        for command in _commands_on(dialect, trigger, statement.section):
            if statement.kind == "remove" or command != statement.command:
                of(statement.section, command, statement)
                taken.setdefault((statement.section, command), set()).add(trigger)
        if statement.kind == "bind":
            named = of(statement.section, statement.command, statement)
            taken.get((statement.section, statement.command), set()).discard(trigger)
            if statement.key not in named:
                added.setdefault((statement.section, statement.command), []).append(statement.key)
    yield from before
    order = {row.written or name: index for index, (name, row) in enumerate(dialect.vocabulary.commands.items())}
    for (section, command), all_keys in sorted(
        keys.items(), key=lambda one: (order.get(one[0][1], len(order)), one[0])
    ):
        gone = {_arriving(dialect, one) for one in taken.get((section, command), set())}
        own = [
            key
            for key in (*dict.fromkeys(added.get((section, command), ())), *all_keys)
            if (trigger_of := _trigger(dialect, key)) is None or _arriving(dialect, trigger_of) not in gone
        ]
        if alternatives or len(own) <= 1:
            text = joint.join(own) if alternatives else "".join(own)
        else:
            text = own[0]  # the others are default keys, in whose place it stands
        none = dialect.description.file.no_keys[:1]
        yield replace(first[section, command], kind="bind", key=text or "".join(none), command=command, section=section)


def _arriving(dialect: Dialect, trigger: Trigger) -> Trigger:
    """What a trigger is to an editor that knows of chords that arrive alike the plainest only."""
    return dialect.terminal.canonical(trigger) if dialect.description.keys.plainest else trigger


def _all_commands(dialect: Dialect) -> list[tuple[str, str]]:
    """The commands of a file that have default keys, with their sections."""
    found = {
        (section, written): None
        for group in dialect.groups for section in group.sections for written in group.keys.values()
        if is_in_file(dialect, written)
    }  # fmt: skip
    return list(found)


def is_in_file(dialect: Dialect, command: str) -> bool:
    """Whether a file can give a command keys."""
    row = dialect.vocabulary.row_of(command)
    return row is not None and not row.fixed


def _default_keys(dialect: Dialect, command: str, section: str) -> list[tuple[str, Trigger]]:
    """The default keys of a command in a section, as they are written."""
    return dialect.default_keys.get((section or dialect.description.file.default_section, command), [])


def _commands_on(dialect: Dialect, trigger: Trigger, section: str) -> Iterator[str]:
    """The commands of a file that a trigger runs by default in a section."""
    for other, written in dialect.default_commands.get(section or dialect.description.file.default_section, ()):
        if other == trigger and is_in_file(dialect, written):
            yield written


def _not_in_file(dialect: Dialect, trigger: Trigger, section: str) -> str:
    """The command that a trigger runs by default in a section and that no file names; empty where there is none."""
    rows = dialect.default_commands.get(section or dialect.description.file.default_section, ())
    return next((written for other, written in rows if other == trigger and not is_in_file(dialect, written)), "")


def _trigger(dialect: Dialect, key: str) -> Trigger | None:
    try:
        return dialect.spelling.read(key)
    except OmbixError:
        return None
