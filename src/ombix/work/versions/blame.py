"""Which commit gave keys the meaning that they have."""

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from ombix.core.errors import InputError, OmbixError, Place, TangledError
from ombix.core.keymap.deciding import DecisionRow
from ombix.core.keymap.outcomes import Play
from ombix.core.keys.notation import Trigger, parse, write
from ombix.work.versions.blame_answer import BlameReport, KeysBlame, KeysMeaning
from ombix.workspace.context import Opener
from ombix.workspace.effective_keymap import EffectiveKeymap
from ombix.workspace.git_versions import Repository, Texts, repository_of
from ombix.workspace.resources import Resources

MOST_COMMITS = 5000
"""Commits that are looked at."""


class BlamedKeys(NamedTuple):
    """Keys, and where they are asked about; empty for those of the workspace."""

    keys: str
    editor: str = ""
    on: str = ""


class _Meaning(NamedTuple):
    """What keys do: for people, and with what macros on them do; and where the first line of it stands."""

    told: tuple[KeysMeaning, ...]
    whole: tuple[str, ...]
    place: Place | None
    is_own: bool


def blame(asked: BlamedKeys, opener: Opener, resources: Resources) -> BlameReport:
    """The commits that gave keys their meaning. Raises InputError for what are no keys, and where there is no repository."""
    trigger = parse(asked.keys)
    repository = repository_of(opener)
    repository.top  # noqa: B018 (there is to be one)
    here = EffectiveKeymap(opener.context(asked.editor, asked.on), resources)
    platform = here.context.platform
    now = _meaning(here, trigger)
    search = _Search(asked, trigger, repository, opener, resources)
    shown = platform.show(platform.resolve(trigger))
    report = BlameReport(write(trigger), shown, platform.name, asked.editor, now.told, (), (), 0, "")
    if now.told and not now.is_own:
        return report._replace(note=f"that is a default key of {asked.editor}; no commit gave it")
    if not repository.has_commits() or search.at("HEAD").whole != now.whole:
        was = search.at("HEAD").told if repository.has_commits() else ()
        return report._replace(was=was, note="not committed yet")
    found, was = search.origins(now)
    commits = tuple(_told(repository, one, search.at(one).place) for one in found)
    note = "" if commits else "these keys never did anything"
    return report._replace(was=was, commits=commits, looked_at=search.count, note=note)


def _told(repository: Repository, commit: str, place: Place | None) -> KeysBlame:
    about = repository.about(commit)
    return KeysBlame(about.id, about.short, about.author, about.date, about.subject, place)


def _meaning(here: EffectiveKeymap, trigger: Trigger) -> _Meaning:
    table = here.tables.get(here.arriving(here.context.platform.resolve(trigger)))
    rows = table.rows if table is not None else ()
    told = tuple(KeysMeaning(str(row.binding.outcome), _always(here.when(row))) for row in rows)
    macros = here.keymap.macros
    does: dict[str, list[DecisionRow]] = {}
    for row, one in zip(rows, told, strict=True):
        outcome = row.binding.outcome
        steps = repr(macros[outcome.macro].steps) if isinstance(outcome, Play) and outcome.macro in macros else ""
        does.setdefault(f"{one.does} {steps}", []).append(row)
    whole = tuple(sorted(f"{name} {_states(same, here)}" for name, same in does.items()))
    own = [row.binding for row in rows if row.binding.layer.kind != "defaults"]
    return _Meaning(told, whole, own[0].place if own else None, bool(own))


def _states(rows: Sequence[DecisionRow], here: EffectiveKeymap) -> str:
    """The states of rows together, in words that do not depend on how they are written, nor in which order."""
    try:
        return here.space.describe(here.space.union(row.states for row in rows))
    except TangledError:
        return " or ".join(sorted(row.binding.where for row in rows))


def _always(when: str) -> str:
    return "" if when == "always" else when


class _Search:
    """Goes back through the commits that changed the workspace's files, as long as the keys mean the same in one of them."""

    def __init__(
        self, asked: BlamedKeys, trigger: Trigger, repository: Repository, opener: Opener, resources: Resources
    ) -> None:
        self._asked = asked
        self._trigger = trigger
        self._repository = repository
        self._opener = opener
        self._resources = resources
        self._known = list(resources.seen)
        self._meanings: dict[str, _Meaning] = {}
        self._texts: dict[int, _Meaning] = {}

    @property
    def count(self) -> int:
        """The commits that were looked at."""
        return len(self._meanings)

    def at(self, commit: str) -> _Meaning:
        """What the keys do in a commit; nothing where its files cannot be read."""
        if commit not in self._meanings:
            texts = self._repository.texts(commit, self._known)
            same = hash(tuple(sorted(texts.items(), key=lambda one: one[0])))
            if same not in self._texts:
                self._texts[same] = self._read(texts)
            self._meanings[commit] = self._texts[same]
        return self._meanings[commit]

    def _read(self, texts: Texts) -> _Meaning:
        resources = self._resources.with_texts({Path(path): text for path, text in texts.items()})
        try:
            context = self._opener.opened_with(resources).context(self._asked.editor, self._asked.on, lenient=True)
            return _meaning(EffectiveKeymap(context, resources), self._trigger)
        except OmbixError:
            return _Meaning((), (), None, False)

    def origins(self, now: _Meaning) -> tuple[list[str], tuple[KeysMeaning, ...]]:
        """The commits in which the keys first had the meaning, on all lines that lead to the newest; and what they did before."""
        listed = self._repository.history(self._known)
        parents = dict(listed)
        found: list[str] = []
        was: tuple[KeysMeaning, ...] = ()
        pending = [listed[0][0]] if listed else []
        seen = set(pending)
        while pending:
            commit = pending.pop()
            if self.count > MOST_COMMITS:
                raise InputError(f"the history has more than {MOST_COMMITS:,} commits", "Ask with git log -S.")
            alike = [one for one in parents.get(commit, ()) if self.at(one).whole == now.whole]
            if not alike and (now.whole or parents.get(commit)):
                if not found and parents.get(commit):
                    was = self.at(parents[commit][0]).told
                found.append(commit)
            new = [one for one in alike if one not in seen]
            seen |= set(new)
            pending += new
        return found, was
