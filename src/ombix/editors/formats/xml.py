"""XML: elements with attributes, read into a tree and laid out again. Entities and document types are refused."""

import re
from collections.abc import Iterator
from typing import Any
from xml.sax.handler import ContentHandler, feature_namespaces

from ombix.core.errors import InputError, Place, xml_advice
from ombix.editors.formats.trees.nodes import MAX_DEPTH, MOST_PARTS, Field, Member, Node, group_of, too_many_parts

_ESCAPED = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;"})
_ESCAPED_IN_QUOTES = _ESCAPED | str.maketrans({'"': "&quot;", "\n": "&#10;", "\t": "&#9;", "\r": "&#13;"})
_NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")


def parse(text: str, file: str) -> Node:
    """The tree of a file, its only item the outermost element. Raises InputError."""
    import io
    from xml.sax import SAXParseException

    from defusedxml import DefusedXmlException, expatreader

    reader = expatreader.create_parser(forbid_dtd=True)
    handler = _Handler(file, text)
    reader.setFeature(feature_namespaces, 0)
    reader.setContentHandler(handler)
    try:
        reader.parse(io.BytesIO(text.removeprefix("\ufeff").encode("utf-8", "surrogatepass")))
    except SAXParseException as error:
        line, column = error.getLineNumber() or 1, (error.getColumnNumber() or 0) + 1
        what = error.getMessage()
        raise handler.error(f"this is not XML: {what}", xml_advice(what), Place(file, line, column)) from None
    except DefusedXmlException:
        raise handler.error("document types and entities are not read", "Leave them out.", handler.place()) from None
    except (ValueError, LookupError) as error:
        raise handler.error(f"this is not XML: {error}", xml_advice(str(error)), Place(file, 1, 1)) from None
    return handler.top


class _Handler(ContentHandler):
    def __init__(self, file: str, text: str) -> None:
        super().__init__()
        self.file = file
        self.lines = text.split("\n")
        self.top = Node("map", place=Place(file, 1, 1))
        self.open = [self.top]
        self.parts = 0
        self.locator: Any = None

    def setDocumentLocator(self, locator: Any) -> None:  # noqa: N802
        self.locator = locator

    def place(self) -> Place:
        return Place(self.file, self.locator.getLineNumber() or 1, (self.locator.getColumnNumber() or 0) + 1)

    def error(self, what: str, advice: str, place: Place) -> InputError:
        line = self.lines[place.line - 1] if place.line <= len(self.lines) else ""
        return InputError(what, advice, place, line.rstrip("\r"), 1)

    def startElement(self, name: str, attrs: Any) -> None:  # noqa: N802
        place = self.place()
        if len(self.open) > MAX_DEPTH:
            raise self.error(f"more than {MAX_DEPTH} levels of nesting", "No keymap needs that.", place)
        self.parts += 1 + len(attrs)
        if self.parts > MOST_PARTS:
            raise too_many_parts(place)
        fields = [Field(key, Node("text", text=value, place=place), place) for key, value in attrs.items()]
        node = Node("map", name, fields=fields, place=place)
        self.open[-1].items.append(node)
        self.open.append(node)

    def endElement(self, name: str) -> None:  # noqa: N802
        for item in self.open.pop().items:
            item.text = item.text.rstrip()

    def characters(self, content: str) -> None:
        items = self.open[-1].items
        if items and items[-1].kind == "text":
            items[-1].text += content
        elif content.strip():
            items.append(Node("text", text=content.lstrip(), place=self.place()))


def whole(text: str) -> str:
    """A piece as a file of its own."""
    return text


def one_line(member: Member) -> str:
    """A member in one line."""
    if isinstance(member, Field):
        return f'{member.name}="{_attribute(member.value.text)}"'
    if member.kind == "text":
        return member.text.strip().translate(_ESCAPED)
    inner = "".join(one_line(item) for item in member.items)
    return f"{_opening(member)}>{inner}</{member.name}>" if inner else f"{_opening(member)}/>"


def lay_out(top: Node) -> str:
    """The text of a file."""
    return "\n".join(_lines(top, "")) + "\n" if top.items else ""


def _lines(group: Node, indent: str) -> Iterator[str]:
    for index, one in enumerate(group.items):
        if one.comment:
            yield from ([""] if index else [])
            yield f"{indent}<!-- {re.sub('-(?=-)', '- ', one.comment)} -->"
        if any(inner.kind != "text" for inner in group_of(one).items):
            yield f"{indent}{_opening(one)}>"
            yield from _lines(one, indent + "  ")
            yield f"{indent}</{one.name}>"
        else:
            yield indent + one_line(one)


def _opening(node: Node) -> str:
    return " ".join([f"<{node.name}", *(one_line(one) for one in node.fields)])


def _attribute(text: str) -> str:
    # A tab or a line end in an attribute would be read as a blank.
    return _NOT_XML.sub("\ufffd", text).translate(_ESCAPED_IN_QUOTES)
