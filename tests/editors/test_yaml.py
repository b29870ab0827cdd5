"""YAML: what is written is read, and what is no YAML, or too much of it, is an error with its place."""

import shutil
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ombix.core.errors import InputError
from ombix.data.shipped import DATA
from ombix.editors.block_installing import Deciding, installed
from ombix.editors.file_forms import form_of_files
from ombix.editors.file_reading import read_file
from ombix.editors.formats import yaml
from ombix.editors.formats.trees.nodes import Field, Node
from tests.helpers import dialect, shipped, space

Plain = tuple[object, ...]


def plain(node: Node) -> Plain:
    """A node without its places."""
    fields = [(one.name, plain(one.value)) for one in node.fields]
    return node.kind, node.text, node.is_quoted, fields, [plain(one) for one in node.items]


# Signs that mean something in YAML, blanks and line ends of several kinds, and words that are no texts.
SIGNS = "ab :#{}[],&*!|>'\"%@`-?=~\\\n\t\x7f\u2028é😀ynull0.e\r\x85\u00a0<>^"
WORDS = ["null", "~", "yes", "on", "1", "1e3", "0x1f", "2001-01-01", "=", "<<", "True", ".inf", "-", "- a", "? b", "a:", "#x",
         " a ", "1:30", "0o7", "_", "1_0", "...", "---", "!!str", "a: b", "", "!"]  # fmt: skip
texts = st.text(SIGNS, max_size=7) | st.sampled_from(WORDS)
leaves = texts.map(lambda text: Node("text", text=text)) | st.sampled_from(["null", "true", "false"]).map(
    lambda word: Node("text", text=word, is_quoted=False)
)


def _map(values: dict[str, Node]) -> Node:
    return Node(
        "map", fields=[Field(name, value, comment="said" if len(name) % 2 else "") for name, value in values.items()]
    )


nodes = st.recursive(
    leaves,
    lambda inner: (
        st.dictionaries(texts, inner, max_size=3).map(_map)
        | st.lists(inner, max_size=3).map(lambda items: Node("list", items=items))
    ),
    max_leaves=12,
)


@given(nodes.filter(lambda node: bool(node.members())))
def test_what_is_written_is_read(node: Node) -> None:
    for text in (yaml.lay_out(node), yaml.one_line(node)):
        assert plain(yaml.parse(text, "file")) == plain(node)


def test_a_file_of_someone_elses() -> None:
    """Blocks and flow, three kinds of quotes, a text of several lines, an anchor, a tag, words that are no texts."""
    found = yaml.parse(
        "---\n# all kinds\nkeys:\n- {press: 'ctrl-''s', run: \"a\\tb\"}\n- press: &again ctrl-k\n  run: >-\n    go\n    on\n"
        "- press: *again\n  run: !!str 5\n- press: ~\n  run:\n- [on, 12, null, True]\n...\n",
        "file",
    )
    texts = [[(one.text, one.is_quoted) for one in (*(each.value for each in item.fields), *item.items)]
             for item in found.fields[0].value.items]  # fmt: skip
    assert texts == [
        [("ctrl-'s", True), ("a\tb", True)], [("ctrl-k", True), ("go on", True)], [("ctrl-k", True), ("5", True)],
        [("null", False), ("null", False)], [("on", True), ("12", True), ("null", False), ("true", False)],
    ]  # fmt: skip


NESTED = "a: &a [x,x,x,x,x,x,x,x]\n" + "".join(
    f"{new}: &{new} [{','.join([f'*{old}'] * 8)}]\n" for old, new in ("ab", "bc", "cd", "de", "ef")
)


@pytest.mark.parametrize(
    ("text", "what", "line", "column"),
    [
        ("a: b: c", "mapping values are not allowed", 1, 5), ("a: [", "expected the node content", 1, 5),
        ("\t- a: b", "cannot start any token", 1, 1), ("- a\nb: c", "expected <block end>", 2, 1),
        ("a: *x", "nothing is called &x", 1, 4), ("---\na: b\n---\nc: d", "a second document", 3, 1),
        ("? [a]\n: b", "a group stands where a name is wanted", 1, 3), ("a: \x00", "a character that it cannot have", 1, 1),
        ("{" * 300, "levels of nesting", 1, 101), ("a: b\nc: d\na: e", "a stands twice here", 3, 1),
        (NESTED, "more than 150000 parts", 6, 14), ("a: 'x", "unexpected end of stream", 1, 6),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_an_error_at_its_place(text: str, what: str, line: int, column: int) -> None:
    with pytest.raises(InputError, match=what) as error:
        yaml.parse(text, "file")
    assert error.value.place is not None
    assert (error.value.place.line, error.value.place.column) == (line, column)


def test_nothing_in_a_file_makes_an_object(tmp_path: Path) -> None:
    mark = tmp_path / "made"
    found = yaml.parse(f"a: !!python/object/apply:os.mkdir ['{mark}']\n", "file")
    assert found.fields[0].value.items[0].text == str(mark)
    assert not mark.exists()


def test_a_block_never_stands_beside_a_group_of_the_same_name(tmp_path: Path) -> None:
    """A second `keys:` would be an error in the editor, or put the first one out of force."""
    rowboat = (DATA / "demo" / "rowboat" / "dialect.toml").read_text()
    start, end = rowboat.index("[[file.forms]]"), rowboat.index("[sections]")
    for pattern, own, other in (
        (
            'keys: [{on: "{key}", does: "{command}"}]',
            "keys:\n- {on: ctrl.s, does: stow}\n",
            "keys:\n- {on: f.2, does: stow}\n",
        ),
        ('[{on: "{key}", does: "{command}"}]', "- {on: ctrl.s, does: stow}\n", "- {on: f.2, does: stow}\n"),
    ):
        forms = f"[[file.forms]]\npattern = '''{pattern}'''\nmeans = 'bind'\n\n"
        text = rowboat[:start] + forms + rowboat[end:]
        folder = tmp_path / f"quay-{len(pattern)}"
        shutil.copytree(DATA / "demo" / "rowboat", folder)
        (folder / "dialect.toml").write_text(text.replace('format = "lines"', 'format = "yaml"'))
        one = dialect(str(folder))
        deciding = Deciding(one, shipped.platform("linux"), space(), shipped.catalogue())
        made = installed(other, own, deciding, lambda text, one=one: read_file(one, text, "file").layer)
        assert made.way == ("whole" if pattern.startswith("keys") else "block")
        assert made.text.startswith(other if made.way == "whole" else own)
        form = form_of_files("yaml")
        assert len([one for one in form.read(made.text, "file", one.description) if one.kind == "bind"]) == (
            1 if made.way == "whole" else 2
        )
        if made.way == "whole":  # what is written over is said, also what is not understood
            unknown = f"{own}ferry: six\nnet: [a]\n"
            made = installed(other, unknown, deciding, lambda text, one=one: read_file(one, text, "file").layer)
            assert (made.way, list(made.gone)) == ("whole", ["ferry: six", "net: [ a ]"])
