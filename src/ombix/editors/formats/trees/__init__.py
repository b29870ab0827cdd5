"""Files that are trees: patterns in the file's own syntax say where in the tree the bindings are.

A pattern is a small file with variables in it: `[[shed."{section}"]]` and below it `treadle = "{key}"` say that each table in
a list `shed.…` is a binding. Its innermost group that has all of a binding's variables is the record; what is around it is
open: other things may stand there, too. A piece of the file that no pattern has is kept.
"""

from collections.abc import Iterable, Iterator

from ombix.core.errors import InputError
from ombix.editors.description import Description
from ombix.editors.formats import FormFault, Heading, Statement
from ombix.editors.formats.trees import patterns, reading, writing
from ombix.editors.formats.trees.nodes import TreeSyntax, group_of


class TreeFormat:
    """A form of files that are trees, by their syntax."""

    def __init__(self, syntax: TreeSyntax) -> None:
        self._syntax = syntax

    def read(self, text: str, file: str, description: Description) -> Iterator[Statement]:
        """The statements of a file. Raises InputError with the place of the first fault of its syntax."""
        return reading.read(text, file, description, self._syntax)

    def write(self, items: Iterable[Statement | Heading], description: Description) -> str:
        """A file that says `items`."""
        return writing.write(items, description, self._syntax)

    def says_twice(self, text: str, _description: Description) -> bool:
        """Whether a name stands for two groups of a map: readers take one of them, and not always both."""
        pending = [self._syntax.parse(text, "")]
        while pending:
            node = pending.pop()
            names = [one.name for one in node.fields if one.value.kind != "text"]
            if len(set(names)) < len(names):
                return True
            pending += [group_of(member) for member in node.members()]
        return False

    def check(self, description: Description) -> Iterator[FormFault]:
        """What is wrong with the patterns of a description."""
        for index, form in enumerate(description.file.forms):
            try:
                patterns.patterns((form,), self._syntax)
            except InputError as error:
                keys = ("file", "forms", str(index), "pattern")
                yield FormFault(keys, f"a pattern is wrong: {error.what}", error.advice)
