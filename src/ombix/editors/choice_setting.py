"""A setting in another file of an editor's that chooses its key file: read, and set with all else as it is (INI, by lines)."""

import re

from ombix.editors.file_description import ChosenBy

_GROUP = re.compile(r"\s*\[(.+)\]\s*\Z")


def chosen(text: str, by: ChosenBy) -> str:
    """What is chosen; empty where nothing is."""
    group = ""
    found = ""
    for line in text.splitlines():
        if head := _GROUP.match(line):
            group = head[1]
        elif group == by.group and line.partition("=")[0].strip() == by.key and "=" in line:
            found = line.partition("=")[2].strip()
    return found


def without_choice(text: str, by: ChosenBy) -> str:
    """The text without the choice of the editor's key file, and without its group where nothing else is in that."""
    lines = text.splitlines(keepends=True)
    group, head, inside = "", -1, 0
    gone: list[int] = []
    for number, line in enumerate(lines):
        if found := _GROUP.match(line):
            group = found[1]
            head = number if group == by.group else head
        elif group == by.group and line.strip():
            is_it = line.partition("=")[0].strip() == by.key and "=" in line
            gone += [number] if is_it else []
            inside += not is_it
    gone += [head] if gone and not inside else []
    return "".join(line for number, line in enumerate(lines) if number not in gone)


def is_left_open(text: str, by: ChosenBy) -> bool:
    """Whether the user has chosen nothing, or what the editor comes with."""
    return chosen(text, by) in ("", *by.unchosen)


def with_choice(text: str, by: ChosenBy) -> str:
    """The text with the editor's key file chosen."""
    end = "\r\n" if "\r\n" in text else "\n"
    entry = f"{by.key}={by.value}"
    lines = text.splitlines(keepends=True)
    group, last = "", -1
    for number, line in enumerate(lines):
        if found := _GROUP.match(line):
            group = found[1]
        if group != by.group:
            continue
        if line.partition("=")[0].strip() == by.key and "=" in line:
            lines[number] = entry + line[len(line.rstrip("\r\n")) :]
            return "".join(lines)
        if line.strip():
            last = number
    if last >= 0:
        before = lines[last] if lines[last].endswith(("\n", "\r")) else lines[last] + end
        return "".join([*lines[:last], before, entry + end, *lines[last + 1 :]])
    head = text if not text or text.endswith("\n") else text + end
    return f"{head}{end if head.strip() else ''}[{by.group}]{end}{entry}{end}"
