"""Commands of an editor joined to a chain, and texts that stand in one."""

import re
from collections.abc import Mapping
from functools import cached_property

from ombix.editors.description import CommandSyntax

_ESCAPED: Mapping[str, str] = {"t": "\t", "n": "\n", "r": "\r"}


class Chains:
    """How an editor joins commands, and how a text stands between them: all from its description."""

    def __init__(self, syntax: CommandSyntax) -> None:
        self._syntax = syntax

    @cached_property
    def _joints(self) -> list[str]:
        joints = [joint for joint in (self._syntax.then, *self._syntax.other_joints) if joint]
        return sorted(joints, key=len, reverse=True)

    def split(self, command: str) -> list[str]:
        """The parts of a chain; texts in quotes stay whole. Empty where it is none that can be read."""
        if not self._joints:
            return []
        if not self._syntax.free_text:
            return re.split("|".join(map(re.escape, self._joints)), command)
        parts, part, at, quoted = list[str](), "", 0, False
        while at < len(command):
            joint = next((joint for joint in self._joints if command.startswith(joint, at)), "") if not quoted else ""
            if joint:
                parts.append(part)
                part, at = "", at + len(joint)
                continue
            size = 2 if quoted and command[at] == "\\" else 1
            quoted ^= command[at] == '"'
            part += command[at : at + size]
            at += size
        parts += [part] if part or not parts else []
        return [] if quoted or "" in parts else parts

    def typed_by(self, part: str) -> str | None:
        """The text that a part of a chain types; None for one that is a command."""
        match = self._typed.fullmatch(part)
        return unescaped(match[1]) if match else None

    @cached_property
    def _typed(self) -> re.Pattern[str]:
        pattern = self._syntax.free_text
        if not pattern:
            return re.compile(r"(?!)()")
        shape = re.escape(pattern).replace(r"\{text\}", r'((?:[^"\\]|\\.)*)')
        suffixes = f"[{re.escape(self._syntax.suffixes)}]?" if self._syntax.suffixes else ""
        return re.compile(shape + suffixes, re.DOTALL)

    def typing(self, text: str) -> str | None:
        """The part of a chain that types a text; None where there is none for it."""
        syntax = self._syntax
        if not syntax.free_text or "\n" in text or any(sign in text for sign in syntax.outside):
            return None
        return syntax.free_text.replace("{text}", text.replace("\\", "\\\\").replace('"', '\\"').replace("\t", "\\t"))


def unescaped(text: str) -> str:
    """A text in quotes as it is."""
    return re.sub(r"\\(.)", lambda match: _ESCAPED.get(match[1], match[1]), text)
