"""Layers written as keymap files; reading them gives the same layers."""

from collections.abc import Iterable, Iterator

from ombix.core.catalogue.actions import COUNT
from ombix.core.keymap.bindings import Binding, Layer, Removal
from ombix.core.keymap.outcomes import (
    Do,
    Insert,
    Nothing,
    Only,
    Outcome,
    Play,
    Press,
    Repeat,
    Step,
    Type,
    Until,
    When,
)
from ombix.core.keys.notation import write
from ombix.core.snippets.macro_steps import in_languages
from ombix.data.platform_names import PLATFORMS
from ombix.files.keymap_reading import FORMAT


def dump(layer: Layer, comment: str = "") -> str:
    """The layer as a keymap file; reading it gives the same layer."""
    lines = [f"# {line}" for line in comment.splitlines()]
    lines += [f"format = {FORMAT}", f"name = {toml_string(layer.name.name)}"]
    lines += [f"editor = {toml_string(layer.name.editor)}"] if layer.name.editor else []
    if layer.never:
        lines.append(f"never = [{', '.join(map(toml_string, layer.never))}]")
    for fact in layer.facts:
        lines += ["", f"[fact.{toml_key(fact.name)}]"]
        lines += [f"title = {toml_string(fact.title)}"] if fact.title else []
        lines += [
            f"{'more' if fact.adds else 'values'} = [{', '.join(map(toml_string, fact.values))}]",
            *(["open = true"] if fact.is_open else []),
        ]
    if layer.scope.own:
        named = (f"{toml_key(name)} = {toml_string(text)}" for name, text in layer.scope.own.items())
        lines += ["", "[where]", *named]
    lines += [*_action_lines(layer), *_unbind_lines(layer), *_command_lines(layer), *_macro_lines(layer)]
    for kept in layer.kept:
        lines += ["", "[[kept]]", f"editor = {toml_string(kept.editor)}", f"text = {toml_string(kept.text)}"]
        lines += [f"reason = {toml_string(kept.reason)}"] if kept.reason else []
        lines += ["beside = true"] if kept.is_beside else []
    return "\n".join(lines) + "\n"


def _action_lines(layer: Layer) -> Iterator[str]:
    bound: dict[str, dict[str, list[Binding]]] = {}
    for binding in layer.bindings:
        if isinstance(binding.outcome, Do):
            domain, _, verb = binding.outcome.action.partition(".")
            bound.setdefault(domain, {}).setdefault(verb, []).append(binding)
    removals: dict[str, dict[str, Removal]] = {}
    for removal in layer.removals:
        domain, _, verb = removal.action.partition(".")
        removals.setdefault(domain, {})[verb] = removal
    for domain in dict.fromkeys([*bound, *removals]):
        yield from ("", f"[bind.{toml_key(domain)}]")
        for verb, bindings in bound.get(domain, {}).items():
            yield from _entry_lines(verb, bindings)
        for verb, removal in removals.get(domain, {}).items():
            fields = [f"{name} = false" for name in PLATFORMS if name in removal.platforms] or ["press = false"]
            fields += [f"why = {toml_string(removal.why)}"] if removal.why else []
            yield f"{toml_key(verb)} = {{ {', '.join(fields)} }}"


def entries_in(layer: Layer) -> int:
    """How many bindings a layer's text has: keys that are taken away, however often and in whatever states, have one entry."""
    taken = {binding.trigger for binding in layer.bindings if isinstance(binding.outcome, Nothing)}
    return len(taken) + sum(not isinstance(binding.outcome, Nothing) for binding in layer.bindings)


def _unbind_lines(layer: Layer) -> Iterator[str]:
    # One key in two states is one entry: the conditions are joined.
    joined: dict[str, list[str]] = {}
    reasons: dict[str, str] = {}
    for binding in layer.bindings:
        if isinstance(binding.outcome, Nothing):
            joined.setdefault(write(binding.trigger), []).append(binding.where)
            reasons[write(binding.trigger)] = binding.why
    if joined:
        yield from ("", "[unbind]")
    for keys, conditions in joined.items():
        where = conditions[0] if len(conditions) == 1 else " or ".join(f"({text})" for text in conditions)
        fields = [f"where = {toml_string(where)}"] if where != "always" else []
        fields += [f"why = {toml_string(reasons[keys])}"] if reasons[keys] else []
        yield f"{toml_string(keys)} = {{ {', '.join(fields)} }}" if fields else f"{toml_string(keys)} = true"


def _command_lines(layer: Layer) -> Iterator[str]:
    only: dict[str, dict[str, list[Binding]]] = {}
    for binding in layer.bindings:
        if isinstance(binding.outcome, Only):
            only.setdefault(binding.outcome.editor, {}).setdefault(binding.outcome.command, []).append(binding)
    for editor, commands in only.items():
        yield from ("", f"[only.{toml_key(editor)}]")
        for command, bindings in commands.items():
            yield from _entry_lines(command, bindings)


def _macro_lines(layer: Layer) -> Iterator[str]:
    played = _by_name(layer)
    for name, macro in layer.macros.items():
        yield from ("", f"[macro.{toml_key(name)}]", f"title = {toml_string(macro.title)}")
        yield from _languages_line(macro.languages)
        if bindings := played.get(f"macro {name}"):
            yield from _played_lines(bindings, macro.languages)
            if isinstance(play := bindings[0].outcome, Play) and play.times > 1:
                yield f"with = {{ count = {play.times} }}"
        yield f"steps = [{', '.join(_step_text(step) for step in macro.steps)}]"
        for example in macro.examples:
            yield from ("", f"[[macro.{toml_key(name)}.example]]", f"before = {toml_string(example.before)}")
            yield f"after = {toml_string(example.after)}"
    for name, snippet in layer.snippets.items():
        yield from ("", f"[snippet.{toml_key(name)}]", f"title = {toml_string(snippet.title)}")
        if snippet.words:
            yield f"words = [{', '.join(map(toml_string, snippet.words))}]"
        yield from _languages_line(snippet.languages)
        bindings = played.get(f"snippet {name}", [])
        if bindings:
            yield from _played_lines(bindings, snippet.languages)
        elif (where := without_languages(snippet.where, snippet.languages)) != "always":
            yield f"where = {toml_string(where)}"
        lines = snippet.body.split("\n")
        whole = toml_string(lines[0]) if len(lines) == 1 else f"[{', '.join(map(toml_string, lines))}]"
        yield f"body = {whole}"


def _by_name(layer: Layer) -> dict[str, list[Binding]]:
    """The bindings of macros and snippets, by what they run."""
    found: dict[str, list[Binding]] = {}
    for binding in layer.bindings:
        if isinstance(binding.outcome, Play | Insert):
            found.setdefault(binding.outcome.key, []).append(binding)
    return found


def _languages_line(languages: tuple[str, ...]) -> list[str]:
    return [f"languages = [{', '.join(map(toml_string, languages))}]"] if languages else []


def _played_lines(bindings: list[Binding], languages: tuple[str, ...]) -> Iterator[str]:
    """The keys of a macro or a snippet, and what else is said of them."""
    yield from _platform_fields(bindings) or [f"press = {_texts_value(bindings)}"]
    if (where := without_languages(bindings[0].where, languages)) != "always":
        yield f"where = {toml_string(where)}"
    if bindings[0].why:
        yield f"why = {toml_string(bindings[0].why)}"
    if bindings[0].command:
        yield f"command = {toml_string(bindings[0].command)}"


def without_languages(where: str, languages: tuple[str, ...]) -> str:
    """A condition without the part that stands for the languages of its entry."""
    if not languages:
        return where
    only = in_languages(languages)
    if where == only:
        return "always"
    return where.removesuffix(f") and {only}").removeprefix("(") if where.endswith(f") and {only}") else where


def _entry_lines(name: str, bindings: list[Binding]) -> list[str]:
    values = entry_values(bindings)
    if len(values) == 1:
        return [f"{toml_key(name)} = {values[0]}"]
    if all(value.startswith('"') for value in values) and sum(map(len, values)) < 80:
        return [f"{toml_key(name)} = [{', '.join(values)}]"]
    return [f"{toml_key(name)} = [", *(f"    {value}," for value in values), "]"]


def entry_values(bindings: Iterable[Binding]) -> list[str]:
    """The values of the bindings of one action, those that differ by platform alone in one."""
    groups: dict[tuple[Outcome, str, str, bool, str], list[Binding]] = {}
    for binding in bindings:
        key = (binding.outcome, binding.where, binding.why, binding.adds, binding.command)
        groups.setdefault(key, []).append(binding)
    values = []
    for group in groups.values():
        fields = _platform_fields(group) if any(binding.platforms for binding in group) else None
        values += [_table_value(group[0], fields)] if fields else [entry_value(binding) for binding in group]
    return values


def _platform_fields(group: list[Binding]) -> list[str] | None:
    """Where all keys that are for several platforms are for the same ones: those, and the others as exceptions."""
    wide = [binding for binding in group if len(binding.platforms) != 1]
    narrow = [binding for binding in group if len(binding.platforms) == 1]
    common = {binding.platforms for binding in wide}
    if len(common) > 1:
        return None
    shared = next(iter(common), frozenset()) or (frozenset(PLATFORMS) if wide else frozenset())
    if any(binding.platforms <= shared for binding in narrow):
        return None
    adds = group[0].adds
    fields = [f"{'also' if adds else 'press'} = {_texts_value(wide)}"] if wide else ["also = true"] * adds
    for name in PLATFORMS:
        own = [binding for binding in narrow if name in binding.platforms]
        if own or (wide and name not in shared):
            fields.append(f"{name} = {_texts_value(own) if own else 'false'}")
    return fields


def _texts_value(bindings: list[Binding]) -> str:
    texts = [toml_string(write(binding.trigger)) for binding in bindings]
    return texts[0] if len(texts) == 1 else f"[{', '.join(texts)}]"


def entry_value(binding: Binding) -> str:
    """The value that stands behind the equals sign for one binding."""
    keys = toml_string(write(binding.trigger))
    value = _table_value(binding, _platform_fields([binding]) or [])
    return keys if value == f"{{ press = {keys} }}" else value


def _table_value(binding: Binding, fields: list[str]) -> str:
    fields = list(fields)
    if binding.where != "always":
        fields.append(f"where = {toml_string(binding.where)}")
    if isinstance(binding.outcome, Do):
        fields += _with_field(binding.outcome)
    if binding.why:
        fields.append(f"why = {toml_string(binding.why)}")
    if binding.command:
        fields.append(f"command = {toml_string(binding.command)}")
    return f"{{ {', '.join(fields)} }}"


def _with_field(outcome: Do) -> list[str]:
    """The arguments of an action, where it has any."""
    inner = ", ".join(
        f"{toml_key(name)} = {value if name == COUNT and value.isdigit() else toml_string(value)}"
        for name, value in outcome.arguments
    )
    return [f"with = {{ {inner} }}"] if inner else []


def _step_text(step: Step) -> str:
    return f"{{ {', '.join(_step_fields(step))} }}"


def _step_fields(step: Step) -> list[str]:
    if isinstance(step, When):
        inner = step.steps[0] if len(step.steps) == 1 else None
        fields = [_steps_field(step.steps)] if inner is None or isinstance(inner, When) else _step_fields(inner)
        return [*fields, f"where = {toml_string(step.where)}"]
    if isinstance(step, Repeat):
        return [f"repeat = {step.times}", _steps_field(step.steps)]
    if isinstance(step, Until):
        return [f"until = {toml_string(step.until)}", f"most = {step.most}", _steps_field(step.steps)]
    if isinstance(step, Do):
        return [f"do = {toml_string(step.action)}", *_with_field(step)]
    if isinstance(step, Type):
        return [f"type = {toml_string(step.text)}"]
    if isinstance(step, Press):
        means = [f"means = {toml_string(step.means)}"] if step.means else []
        return [f"press = {toml_string(write(step.keys))}", *means]
    if isinstance(step, Only):
        return [f"only = {toml_string(step.command)}", f"editor = {toml_string(step.editor)}"]
    if isinstance(step, Insert):
        return [f"insert = {toml_string(step.snippet)}"]
    return [f"play = {toml_string(step.macro)}", *([f"times = {step.times}"] if step.times > 1 else [])]


def _steps_field(steps: Iterable[Step]) -> str:
    return f"steps = [{', '.join(map(_step_text, steps))}]"


def toml_key(name: str) -> str:
    """A name as a key of a TOML file."""
    return (
        name
        if name and all(char.isascii() and (char.isalnum() or char in "-_") for char in name)
        else toml_string(name)
    )


def toml_string(text: str) -> str:
    """A text as a value of a TOML file."""
    escaped = "".join(
        {"\\": "\\\\", '"': '\\"', "\n": "\\n", "\t": "\\t", "\r": "\\r"}.get(char)
        or (f"\\u{ord(char):04x}" if ord(char) < 32 or ord(char) == 127 else char)
        for char in text
    )
    return f'"{escaped}"'
