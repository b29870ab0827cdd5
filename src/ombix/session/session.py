"""A session: a workspace, a keymap file or an editor's own file, opened once, and the questions that can be asked."""

import os
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

from ombix.session.wishes import PLAIN_EDIT, AuditWishes, EditWishes
from ombix.store.cache import Cache

if TYPE_CHECKING:
    from os import PathLike
    from pathlib import Path

    from ombix.core.conditions import States
    from ombix.core.keys import Chord, Trigger
    from ombix.core.results.applying import ApplyReport, StatusReport
    from ombix.core.results.auditing import AuditReport, FoundFault, RuleExplanation
    from ombix.core.results.changes import BlameReport, VersionChanges
    from ombix.core.results.comparing import ComparisonReport
    from ombix.core.results.effort import EffortReport
    from ombix.core.results.files import (
        Adoption,
        ChangeReport,
        DescriptionReport,
        DraftReport,
        EditorAbilities,
        EditorList,
        FoldReport,
        History,
        KnownHardware,
        LayoutKeys,
        Overview,
        PackagesReport,
        StartReport,
        TrustReport,
        UndoReport,
    )
    from ombix.core.results.finding import FoundActions
    from ombix.core.results.free import FreeReport
    from ombix.core.results.git import StagedReport
    from ombix.core.results.listing import Listing, PlatformListing, UnboundActions
    from ombix.core.results.looking import Explanation, NotApplying
    from ombix.core.results.macros import AdoptedSnippets, MacroList, MacroReport, MacroTrial, RecordReport, SnippetPort
    from ombix.core.results.page import PageData
    from ombix.core.results.pictures import KeyboardPicture
    from ombix.core.results.porting import PortReport
    from ombix.core.results.pressing import StageReport
    from ombix.core.results.proving import ProofReport
    from ombix.core.results.settling import SettleReport
    from ombix.core.results.sheets import Sheet
    from ombix.core.results.use import SavingsReport, StrainReport, SuggestReport, UseReport
    from ombix.core.use import UseCounts
    from ombix.dialects.dialect import Dialect
    from ombix.session.adopting import Read
    from ombix.session.applying import Applying, ApplyWishes
    from ombix.session.changing import KeymapEditing
    from ombix.session.context import Context, Opener, SourceKind
    from ombix.session.describing import DraftRequest
    from ombix.session.edits import WantedBinding
    from ombix.session.effective import EffectiveKeymap
    from ombix.session.free import FreeSearch
    from ombix.session.git_setup import GitSetUp
    from ombix.session.live import LiveStage
    from ombix.session.look_ups import LookUps
    from ombix.session.merging import Merging
    from ombix.session.pictures import PictureWishes
    from ombix.session.porting import MadePort, PortWishes
    from ombix.session.practice import Practice, PracticeWishes
    from ombix.session.pressing import StagePlace
    from ombix.session.proving import PressedIn
    from ombix.session.recording import RecordWishes
    from ombix.session.resources import Resources
    from ombix.session.savings import SavingsWishes
    from ombix.session.settling import SettledFile, Settling
    from ombix.session.sheets import SheetWishes
    from ombix.session.suggesting import SuggestWishes
    from ombix.session.trying import TrialWishes
    from ombix.session.use import ReadUse, UseMeaning, UseWishes
    from ombix.session.watching import WatchedKeys
    from ombix.store.progress import Progress
    from ombix.store.trust import Trust
    from ombix.store.use_days import UseDays
    from ombix.store.workspace import Workspace, WorkspaceEditor
    from ombix.store.writing import Writer

_WORKSPACE_FILE = "ombix.toml"


class Session:
    """Opened on `path`: a workspace (its file or its folder), a keymap file, or an editor's own file; without one, on the
    nearest workspace. `kind` says which it is, where what stands in it is not to tell; `editor` whose file it is.

    Nothing is read before the first question, and nothing twice. The questions take the same options: `editor` (one of
    the workspace, or one that Ombix knows), `on` (a platform), `layout` (a name, or a file), `within` (a condition). Names
    of files are relative to `folder`, which is that of the call where it is empty. Each raises
    `ombix.core.errors.InputError` for what cannot be, and `OutsideError` for what fails outside.
    """

    def __init__(
        self, path: "str | PathLike[str] | None" = None, *, kind: "SourceKind" = "", editor: str = "", folder: str = "",
        texts: Mapping[str, str | None] | None = None, cache: str = "", state: str = "",
    ) -> None:  # fmt: skip
        self.folder = folder or os.getcwd()  # noqa: PTH109
        self._path = os.fspath(path) if path is not None else None
        self._kind: SourceKind = kind
        self._editor = editor
        self._texts = texts
        self._machine = ""
        self._cache = Cache(cache) if cache and not texts else None
        self._state = state
        self.say: Callable[[str], None] = lambda text: None
        """Told what else there is to be known, in sentences: like what an earlier run left in the middle."""
        self.finishes = False
        """Whether that is brought to an end before the workspace is opened."""
        self._resources: Resources | None = None
        self._opener: Opener | None = None
        self._effective: dict[tuple[str, str, str, bool], EffectiveKeymap] = {}
        self._asked: dict[str, LookUps] = {}

    # --- what is opened

    def with_texts(self, texts: Mapping[str, str | None]) -> "Session":
        """A session on the same, in which texts, by absolute path, stand for what is on the disk."""
        return self._again({**(self._texts or {}), **texts}, self._machine)

    def _again(self, texts: Mapping[str, str | None] | None, machine: str) -> "Session":
        found = Session(
            self._path, kind=self._kind, editor=self._editor, folder=self.folder, texts=texts, state=self._state
        )
        found._machine = machine
        return found

    @property
    def resources(self) -> "Resources":
        """What was loaded so far."""
        if self._resources is None:
            from ombix.session.resources import Resources

            self._resources = Resources(self._texts, self._cache)
        return self._resources

    @property
    def opener(self) -> "Opener":
        """What opens the workspace, or the file."""
        if self._opener is None:
            from pathlib import Path

            from ombix.session.context import Opener, Source

            if self.finishes and self._kind != "file":
                self._finish_interrupted()
            path = Path(self._path) if self._path is not None else None
            self._opener = Opener(
                Path(self.folder), Source(path, self._kind, self._editor, self._machine), self.resources
            )
        return self._opener

    def context(self, editor: str = "", on: str = "", layout: str = "", lenient: bool = False) -> "Context":
        """What a question with these options is about."""
        return self.opener.context(editor, on, layout, lenient)

    def on_machine(self, machine: str) -> "Session":
        """A session on the same, as it is on a machine of the workspace."""
        return self._again(self._texts, machine)

    def _finish_interrupted(self) -> None:
        """Bring to an end what an earlier run left in the middle, before anything is read: a workspace of which one file is as it
        was and another as it was to be may not be readable at all, and then no command that writes would come to mend it."""
        from pathlib import Path

        from ombix.store.change_folder import has_unfinished

        here = Path(self.folder)
        start = here / self._path if self._path is not None else here
        folders = (start, *start.parents) if self._path is None or start.is_dir() else (start.parent,)
        home = next((one for one in folders if (one / _WORKSPACE_FILE).is_file()), here)
        if has_unfinished(self._state_folder(), home):
            from ombix.store.writing import Writer

            Writer(self._state_folder(), home, say=self.say).recover()

    def machines(self, *names: str) -> "tuple[str, ...]":
        """The machines of the workspace that are named; `all`: all of them. Raises InputError for one that is not there."""
        from ombix.core.errors import InputError, did_you_mean

        known = list(self.opener.needed_workspace().machines)
        for name in names:
            if name != "all" and name not in known:
                advice = did_you_mean(name, known) or f"Its machines are {', '.join(known) or 'none'}."
                raise InputError(f"the workspace names no machine {name}", advice)
        if "all" in names and not known:
            raise InputError("the workspace names no machine", "Write [machine.desk] in ombix.toml; see: docs/files.md")
        return tuple(known) if "all" in names else tuple(dict.fromkeys(names))

    def has_workspace(self) -> bool:
        """Whether there is a workspace, be it right or wrong."""
        return bool(_nearest(self.folder)) if self._path is None else not self.opener.is_file()

    def keymap(self, editor: str = "", on: str = "", layout: str = "", lenient: bool = False) -> "EffectiveKeymap":
        """The keymap as it is in force; a lenient one leaves out what is wrong in its files, and notes it."""
        key = (editor, on, layout, lenient)
        if key not in self._effective:
            from ombix.core.garbage import no_garbage_collection
            from ombix.session.effective import EffectiveKeymap

            with no_garbage_collection():
                self._effective[key] = EffectiveKeymap(self.context(*key), self.resources)
            self.resources.tables.keep()
        return self._effective[key]

    def files(self) -> Mapping[str, str]:
        """The absolute path of every file that the answers so far depend on, whether it was there or not, with its stamp."""
        return self.resources.seen

    # --- looking

    def what(self, keys: str, *, editor: str = "", on: str = "", layout: str = "", within: str = "") -> "Explanation":
        """What happens when keys are pressed, and why; what may follow."""
        from ombix.session.explaining import explain

        look_ups = self._look_ups(editor, on, layout)
        if not within:
            return explain(look_ups.decisions, keys, look_ups.settle)
        from ombix.session.indexing import decision_index

        here = self.keymap(editor, on, layout)
        states = here.within(within)
        return explain(decision_index(here, states), keys, look_ups.settle, within, _not_applying(here, states))

    def how(
        self,
        words: str,
        *,
        editor: str = "",
        on: str = "",
        layout: str = "",
        domain: str = "",
        everything: bool = False,
        within: str = "",
    ) -> "FoundActions":
        """The actions that words describe, with their keys; of one `domain`, or `everything` that comes near; with a condition,
        those that can be run in its states."""
        from ombix.session.finding import find

        if not within:
            return find(self._look_ups(editor, on, layout).actions, words, domain, everything)
        from ombix.session.indexing import action_index

        here = self.keymap(editor, on, layout)
        return find(action_index(here, here.within(within)), words, domain, everything)

    def show(
        self, *, by: str = "work", own: bool = False, editor: str = "", on: str = "", layout: str = "", within: str = ""
    ) -> "Listing":
        """The bindings in force, by kind of `work`, by `key` or by `layer`; with `own` without an editor's defaults."""
        from ombix.session.listing import listing

        return listing(self.keymap(editor, on, layout), by, own, within)

    def sheet(
        self, wishes: "SheetWishes | None" = None, *, editors: Sequence[str] = (), on: Sequence[str] = (),
        layouts: Sequence[str] = (), machines: Sequence[str] = (), since: str = "", against: "Session | None" = None,
    ) -> "Sheet":  # fmt: skip
        """What is bound, to be printed: each machine, editor, platform and layout in a column; only what changed `since` a version
        in git, or `against` what another session is on."""
        from ombix.session.sheets import SheetWishes, sheet
        from ombix.session.versions import texts_at

        if since:
            self.context()  # so that all files are known
            against = self.with_texts(texts_at(self.opener, self.files(), since))
        before = against.keymap if against is not None else None
        keymaps = [(name, self.on_machine(name).keymap) for name in self.machines(*machines)] if machines else []
        return sheet(keymaps or [("", self.keymap)], wishes or SheetWishes(), editors, on, layouts, before)

    def picture(
        self, wishes: "PictureWishes | None" = None, *, editor: str = "", on: str = "", layout: str = ""
    ) -> "KeyboardPicture":
        """The keyboard at hand, with what is on its keys."""
        from ombix.session.pictures import PictureWishes, picture

        return picture(self.keymap(editor, on, layout), wishes or PictureWishes(), self.resources)

    def page(
        self, *, editor: str = "", on: str = "", layout: str = "", keyboard: str = "", to: Sequence[str] = ()
    ) -> "PageData":
        """All that one page has: decisions, what actions are found by, the sheet, the keyboard, what is wrong, the ports to the
        editors named, and what can be practised."""
        from ombix.session.paging import PageBeside, page_data
        from ombix.session.pictures import PictureWishes
        from ombix.session.practice import Practice, PracticeWishes

        here = self.keymap(editor, on, layout)
        practice = Practice(here, None, PracticeWishes(), self.resources)
        sheet = self.sheet(editors=[editor] * bool(editor), on=[on] * bool(on), layouts=[layout] * bool(layout))
        picture = self.picture(PictureWishes(keyboard=keyboard), editor=editor, on=on, layout=layout)
        findings = self.audit(editor=editor, on=on, layout=layout).findings
        return page_data(here, practice, PageBeside(sheet, picture, findings, self.port(*to, on=on) if to else ()))

    def practice(self, wishes: "PracticeWishes | None" = None, *, editor: str = "", on: str = "") -> "Practice":
        """The things of the keymap to be practised, with what is remembered of them."""
        from ombix.session.practice import Practice, PracticeWishes

        return Practice(self.keymap(editor, on), self.progress(), wishes or PracticeWishes(), self.resources)

    def progress(self) -> "Progress":
        """What is remembered of what was practised here."""
        from ombix.store.progress import Progress

        workspace = None if self.opener.is_file() else self.opener.workspace()
        return Progress(self._state_folder(), workspace.path if workspace is not None else self.opener.folder)

    def show_platforms(self, *, own: bool = False, differing: bool = False, editor: str = "") -> "PlatformListing":
        """The keys on all platforms side by side; `differing`: only where they are not those of one definition."""
        from ombix.session.listing import platform_listing

        return platform_listing(self.keymap(editor), self.resources.shipped.platforms(), own, differing)

    def show_unbound(self, *, own: bool = False, editor: str = "", on: str = "") -> "UnboundActions":
        """The actions that have no keys."""
        from ombix.session.listing import unbound_actions

        return unbound_actions(self.keymap(editor, on), own)

    def effort(
        self, *keys: str, hands: str = "both", keyboard: str = "", on: str = "", layout: str = ""
    ) -> "EffortReport":
        """What each of the keys costs the hands."""
        from ombix.session import effort
        from ombix.session.context import setup_at_hand

        context = self.opener.hands_context(on, layout)
        setup = setup_at_hand(context, self.resources, keyboard)
        return effort.report(keys, setup, effort.hands_called(hands), self.resources)

    def free(
        self,
        words: str = "",
        *,
        keys: str = "",
        where: str = "",
        count: int = 10,
        editor: str = "",
        on: str = "",
        layout: str = "",
    ) -> "FreeReport":
        """The keys that are free, for the action that words name or describe; or whether these `keys` are."""
        found = self.free_search(words, where=where, editor=editor, on=on, layout=layout)
        return found.asked(keys) if keys else found.report(count)

    def free_search(
        self, words: str = "", *, where: str = "", editor: str = "", on: str = "", layout: str = ""
    ) -> "FreeSearch":
        """A look for free keys; see `free`."""
        from ombix.session import edits, free

        action = edits.action_called(words, self.resources.shipped) if words else None
        platforms = (on,) if on else free.platforms_of(self._workspace(), self.resources)
        places = [self.keymap(editor, one, layout, lenient=True) for one in platforms or ("",)]
        return free.search(places, self.workspace_editors(), self.resources, action, where)

    # --- what is wrong

    def audit(
        self, *, rules: Sequence[str] = (), without: Sequence[str] = (), severity: str = "note", editor: str = "",
        on: str = "", layout: str = "", wishes: AuditWishes | None = None,
    ) -> "AuditReport":  # fmt: skip
        """The findings of the rules named (none: of all), without some, from a severity on; with `wishes`, only those that are
        new, or with the lines that would mend them."""
        from ombix.core.garbage import no_garbage_collection
        from ombix.session import auditing

        with no_garbage_collection():
            chosen = auditing.choose_rules(rules, without, severity, self._severities())
            here = self.keymap(editor, on, layout, lenient=True)
            found = auditing.find(here, self.workspace_editors(), self.resources, chosen)
            self.resources.tables.keep()
            workspace = here.context.workspace
            report = auditing.report(found, here.context.about)._replace(machine=workspace.at if workspace else "")
            if workspace is not None and not (editor or on or layout):
                # Where one machine was asked about, the workspace has no other.
                for name, machine in workspace.machines.items():
                    if machine.platform not in ("", report.platform):
                        there = self.on_machine(name)
                        more = auditing.find(
                            there.keymap(lenient=True), there.workspace_editors(), there.resources, chosen
                        )
                        found, report = auditing.joined(found, report, more, name)
        if wishes is None:
            return report
        from ombix.session import new_only
        from ombix.session.versions import texts_at

        def at_version(version: str) -> "Sequence[FoundFault]":
            before = self.with_texts(texts_at(self.opener, self.files(), version))
            return before.audit(rules=report.rules, editor=editor, on=on, layout=layout).findings

        return new_only.wished(
            report, found, wishes, new_only.Beside(self.read, at_version, self.opener, self.resources)
        )

    def _severities(self) -> Mapping[str, str]:
        workspace = self._workspace()
        return workspace.severities if workspace is not None else {}

    def write_baseline(self, report: "AuditReport", file: str, dry_run: bool = False) -> "list[Path]":
        """Write the findings of a report to a file, as those that are known."""
        from ombix.session import new_only

        return self.write(f"baseline {file}", {file: new_only.baseline_text(report)}, dry_run)

    def rules(self, *names: str) -> "tuple[RuleExplanation, ...]":
        """What the rules named (none: all) find, why that matters, and what mends it."""
        from ombix.session import auditing

        return tuple(map(auditing.explanation, auditing.choose_rules(names)))

    def _workspace(self) -> "Workspace | None":
        return None if self.opener.is_file() else self.opener.workspace()

    def workspace_editors(self) -> "list[WorkspaceEditor]":
        """The editors of the workspace; none where there is no workspace."""
        workspace = self._workspace()
        return [self.opener.editor(name) for name in (workspace.editors if workspace is not None else ())]

    # --- ports

    def make_ports(
        self, *to: str, source: str = "", on: str = "", rehome: bool = False, accept_loss: bool = False
    ) -> "list[MadePort]":  # fmt: skip
        """Ports to the editors named (none: to all of the workspace), not written yet.

        `source` is an editor, for its default keys, or a file; without one, what was opened is ported.
        """
        from ombix.core.garbage import no_garbage_collection
        from ombix.session import porting

        with no_garbage_collection():
            origin = porting.origin(self.opener, self.resources, source)
            names = list(dict.fromkeys(to)) or self._all_editors()
            wishes = porting.PortWishes(rehome, accept_loss)
            made = [porting.port(origin, name, self.opener.target(name, on), self.resources, wishes) for name in names]
            self.resources.tables.keep()
            return made

    def port(
        self, *to: str, source: str = "", on: str = "", rehome: bool = False, accept_loss: bool = False
    ) -> "tuple[PortReport, ...]":  # fmt: skip
        """The accounts of ports; nothing is written."""
        from ombix.session import porting

        return tuple(
            map(porting.report, self.make_ports(*to, source=source, on=on, rehome=rehome, accept_loss=accept_loss))
        )

    def write_ports(
        self, made: "Sequence[MadePort]", output: str = "", reports: Mapping[str, str] | None = None,
        dry_run: bool = False,
    ) -> "list[Path]":  # fmt: skip
        """Write ports to their places, or one to `output`, with `reports` (their texts by file) beside them."""
        from ombix.session.resources import user_path

        folder = self.opener.folder
        texts = {user_path(output, folder) if output else one.path: one.file.text for one in made}
        texts |= {user_path(name, folder): text for name, text in (reports or {}).items()}
        given = [user_path(name, folder) for name in (output, *(reports or {})) if name]
        command = f"port --to {' --to '.join(one.name for one in made)}"
        return self.writer(*given).change(command, lambda: texts, dry_run)

    def write(self, command: str, texts: Mapping[str, str | bytes], dry_run: bool = False) -> "list[Path]":
        """Write texts, or bytes, to files, as one change that can be taken back; `command` says what made it."""
        from ombix.session.resources import user_path

        contents = {user_path(name, self.opener.folder): text for name, text in texts.items()}
        return self.writer(*contents).change(command, lambda: contents, dry_run)

    def hand_over(self, file: str, text: str) -> None:
        """Write a text to a file of another program's own, which takes it at once: nothing is noted, nothing can be taken back."""
        from ombix.session.resources import user_path

        path = user_path(file, self.opener.folder)
        new = path.with_name(f"{path.name}.new")
        try:
            new.write_bytes(text.encode("utf-8"))
            new.replace(path)  # whole or not at all
        finally:
            new.unlink(missing_ok=True)

    def read(self, file: str) -> str:
        """The text of a file that a user named."""
        from ombix.session.resources import user_path

        return self.resources.files.read_text(user_path(file, self.opener.folder))

    def _all_editors(self) -> list[str]:
        editors = self.opener.needed_workspace().editors
        if not editors:
            from ombix.core.errors import InputError

            raise InputError("the workspace names no editor", "Say --to NAME, or write [editor.pier] in ombix.toml.")
        return list(editors)

    def compare(self, first: str, second: str, *, editor: str = "", on: str = "") -> "ComparisonReport":
        """Two of editors, keymap files and editors' own files (those of `editor`), decision by decision."""
        from ombix.session import comparing

        one, other = (comparing.side(text, editor, self.opener, self.resources) for text in (first, second))
        return comparing.report(one, other, self.opener.platform(on), self.resources)

    # --- evidence

    def prove(
        self, to: str, *, source: str = "", file: str = "", press_in: "PressedIn" = "target", on: str = "",
        wishes: "PortWishes | None" = None,
        progress: "Callable[[int], Callable[[], None]]" = lambda count: lambda: None,
    ) -> "ProofReport":  # fmt: skip
        """Press the keys of a port in the real editor, on the `stage` in its simulation, or in `both`: also in the editor that
        it comes from; with `file` in its place."""
        from ombix.session import proving, trusting
        from ombix.session.resources import user_path

        rehome, accept_loss = wishes or (False, False)
        made = self.make_ports(to, source=source, on=on, rehome=rehome, accept_loss=accept_loss)[0]
        staged = press_in == "stage" or made.target.description.simulated
        if not staged:
            trusting.require_trusted(made.target, self.resources.dialects, self._trusted())
            proving.require_program(made.target, made.name)
        against = proving.require_source(made) if press_in == "both" and not staged else None
        if against is not None:
            trusting.require_trusted(against, self.resources.dialects, self._trusted())
        text, name = made.file.text, "the ported file"
        if file:
            text, name = self.resources.files.read_text(user_path(file, self.opener.folder)), file
        proved = proving.press_all(made, text, name, staged, progress, against)
        return proving.report(made, proved, staged, against)

    def packages(self) -> "PackagesReport":
        """What installed packages bring along, each tried. This runs their code."""
        from ombix.session.packages import packages

        return packages(self.resources.dialects)

    def trust(self, folder: str, accept: bool = False) -> "TrustReport":
        """What a description in a folder would start, and whether it is trusted; with `accept` it is, from now on."""
        from ombix.session import trusting
        from ombix.session.resources import user_path

        path, trust = user_path(folder, self.opener.folder), self._trusted()
        found = trusting.look(path, self.resources.dialects, trust)
        if not accept:
            return found
        trusting.accept(path, self.resources.dialects, trust)
        return trusting.look(path, self.resources.dialects, trust)

    def forget_trust(self, folder: str) -> bool:
        """Trust a folder no longer; whether it was trusted."""
        from ombix.session.resources import user_path

        return self._trusted().remove(user_path(folder, self.opener.folder))

    def _is_trusted(self, dialect: "Dialect") -> bool:
        from ombix.session import trusting

        return trusting.is_trusted(dialect, self.resources.dialects, self._trusted())

    def _trusted(self) -> "Trust":
        from ombix.store.trust import Trust

        return Trust(self._state_folder())

    def press(
        self, *keys: str, place: "StagePlace | None" = None, editor: str = "", file: str = "", on: str = ""
    ) -> "StageReport":
        """Press keys on the stage, on a text: in the keymap by itself, or in an editor with the keymap, or with `file`."""
        from ombix.session import pressing

        chosen = place or pressing.place_on(pressing.TEXT, "1:1", "always")
        setting = pressing.StageSetting(editor, file, on)
        staged = pressing.put_on_stage(setting, chosen, self.opener, self.resources)
        return pressing.report(staged, pressing.strokes(keys, staged.platform))

    def live(self, place: "StagePlace | None" = None, *, editor: str = "", file: str = "", on: str = "") -> "LiveStage":
        """The same, for keys that come from a terminal one by one."""
        from ombix.session import pressing
        from ombix.session.live import LiveStage
        from ombix.session.practice import TERMINAL

        chosen = place or pressing.place_on(pressing.TEXT, "1:1", "always")
        staged = pressing.put_on_stage(pressing.StageSetting(editor, file, on), chosen, self.opener, self.resources)
        return LiveStage(staged, self.resources.shipped.terminal(TERMINAL))

    # --- what is used

    def watch(self, command: str, *, editor: str = "", file: str = "") -> "WatchedKeys":
        """What counts the keys that go to an editor in a terminal: the program `command`, or `editor`; by its own key file."""
        from ombix.core.errors import OmbixError
        from ombix.session import pressing, watching
        from ombix.session.command_guard import CommandGuard
        from ombix.session.context import terminal_of

        found = watching.watched_editor(command, editor, self.opener, self.resources)
        place = pressing.place_on(pressing.TEXT, "1:1", "always")
        own = str(self.path(file)) if file else found.file
        try:
            staged = pressing.put_own_on_stage(found.editor, own, place, self.opener, self.resources)
        except OmbixError as error:
            if not own or file:
                raise
            self.say(f"its key file cannot be read, so its defaults decide what keys do: {error.what} ({own})")
            staged = pressing.put_own_on_stage(found.editor, "", place, self.opener, self.resources)
        chosen = self.opener.editor(found.editor)
        dialect = self.resources.dialect(chosen)
        terminal = terminal_of(chosen, dialect, self.resources)
        guard = CommandGuard(dialect, self.resources.shipped.catalogue())
        return watching.WatchedKeys(staged, terminal, found.editor, dialect.vocabulary, guard)

    def keep_use(self, counts: "UseCounts") -> None:
        """Add what was counted to what is kept."""
        if counts:
            self._use_days.add(counts)

    def forget_use(self, until: str = "") -> int:
        """Forget what was used up to a day (YYYY-MM-DD; empty: on all); how many days that were. Raises InputError."""
        from ombix.core.use import check_day

        check_day(until)
        return self._use_days.forget(until)

    def use(self, wishes: "UseWishes | None" = None) -> "UseReport":
        """What was used: of the logs that are named, or of what is kept."""
        from ombix.session.use import UseWishes

        wanted = wishes or UseWishes()
        return self._use_meaning().report(self.read_use(wanted), wanted)

    def savings(self, words: Sequence[str], wishes: "SavingsWishes", logs: "UseWishes") -> "SavingsReport":
        """What keys save: for estimates in words like `line.copy-down 100/day`, or else for what was used."""
        from ombix.session import savings

        meaning = self._use_meaning()
        by_hand = savings.estimates(words, meaning)
        if by_hand:
            wishes = wishes._replace(by_hand=by_hand)
            used = [
                savings.ActionUse(name, {wishes.by: times}, *meaning.first_keys("", name))
                for name, times in by_hand.items()
            ]
        else:
            used = savings.uses(self.read_use(logs).counts, meaning)
        return savings.savings(used, wishes, self.resources.shipped.keystroke_model())

    def suggest(self, logs: "UseWishes", wishes: "SuggestWishes") -> "SuggestReport":
        """Better keys for what is used, and with `take` written into the keymap, as one change that can be taken back."""
        from ombix.session import savings, suggesting
        from ombix.session.changing import layer_path
        from ombix.session.ways_out import SettlingOf, WaysOut

        editing = self._editing()
        platform = self.opener.platform(wishes.on).name
        ways = WaysOut(editing, editing.read(layer_path("", self.opener)), SettlingOf((), platform))
        used = savings.uses(self.read_use(logs).counts, self._use_meaning())
        weights = self.opener.needed_workspace().weights
        found = suggesting.Suggesting(ways, used, weights, self.resources.shipped.keystroke_model()).suggest(
            wishes.most
        )
        return suggesting.carried_out(found, ways, wishes, self.writer())

    def used_keys(self, logs: "UseWishes") -> dict[str, int]:
        """How often keys were used, by the keys; what is no keys is left out."""
        from ombix.session.straining import keys_of

        return keys_of(self.read_use(logs).counts, logs.editor)

    def strain(self, logs: "UseWishes", *, on: str = "", keyboard: str = "") -> "StrainReport":
        """What the keys that are used load on fingers, hands, rows and modifiers, on the keyboard at hand."""
        from ombix.session.straining import strain_of

        here = self.opener.hands_context(on)
        return strain_of(self.read_use(logs).counts, here, self.resources, keyboard)

    def read_use(self, wishes: "UseWishes") -> "ReadUse":
        """The counts of it."""
        from ombix.core.use import check_day
        from ombix.session.use import UseReading

        check_day(wishes.since)
        check_day(wishes.until)
        workspace = self.opener.workspace() if not self.opener.is_file() else None
        columns = workspace.use_columns if workspace is not None else {}
        return UseReading(self._use_days, self.path, columns, lambda: self._watch_recording(wishes.editor)).read(wishes)

    def _watch_recording(self, editor: str) -> "WatchedKeys":
        """What counts the keys of a recording. Raises InputError where nobody said of which editor it is."""
        from ombix.core.errors import InputError

        if not editor:
            raise InputError("a recording does not say in which editor it was made", "Say it: --editor micro")
        return self.watch("", editor=editor)

    @property
    def _use_days(self) -> "UseDays":
        from ombix.store.use_days import UseDays

        return UseDays(self._state_folder())

    def _use_meaning(self) -> "UseMeaning":
        from ombix.session.use import UseMeaning

        return UseMeaning(lambda editor: self.keymap(editor), self.resources)

    # --- changes

    def macros(self, *, editor: str = "", on: str = "") -> "MacroList":
        """The macros and snippets of the keymap."""
        from ombix.session.macros import all_macros

        return all_macros(self.keymap(editor, on))

    def macro(self, name: str, *, editor: str = "", on: str = "") -> "MacroReport":
        """One macro or snippet in full."""
        from ombix.session.macros import one_macro

        return one_macro(name, self.keymap(editor, on))

    def state_of(self, file: str, within: str) -> str:
        """The condition of a state in which a file is edited: in the language that its name tells, where `within` says none."""
        from pathlib import PurePath

        if "language" in within:
            return within
        ending = PurePath(file).suffix
        found = (one.name for one in self.resources.shipped.languages().values() if ending in one.endings)
        name = next(found, "")
        own = f"language is {name}"
        return within if not name else own if within == "always" else f"({within}) and {own}"

    def try_macro(
        self, name: str, place: "StagePlace", wishes: "TrialWishes", *, editor: str = "", on: str = "", file: str = ""
    ) -> "MacroTrial":
        """Try a macro or a snippet on a text; the text behind it is written to `file`, where one is named and it differs."""
        from ombix.session.trying import try_on

        found = try_on(name, place, self.keymap(editor, on), wishes, file)
        if found.written:
            from ombix.store.line_keeping import with_lines_of

            self.write(f"macro try {name} --write", {file: with_lines_of(found.text, self.read(file))})
        return found

    def record(
        self, keys: "Sequence[Chord]", place: "StagePlace", wanted: "RecordWishes", wishes: EditWishes = PLAIN_EDIT, *,
        editor: str = "",
    ) -> "RecordReport":  # fmt: skip
        """Put what keys do into the keymap, as a macro."""
        from ombix.session.recording import recorded, write_recording

        found = recorded(keys, place, self.keymap(editor))
        return write_recording(found, tuple(keys), wanted, self._editing(), wishes)

    def keys_of(self, data: bytes, editor: str = "") -> "tuple[list[Chord], int]":
        """The keys that a terminal sent as bytes, and how many of these stand for none."""
        from ombix.session.context import terminal_of
        from ombix.session.recording import keys_sent

        shipped = self.resources.shipped
        if not editor:
            return keys_sent(data, shipped.terminal("xterm"))
        one = self.opener.editor(editor)
        return keys_sent(data, terminal_of(one, self.resources.dialect(one), self.resources))

    def port_snippets(self, to: str, *, output: str = "", dry_run: bool = False) -> "SnippetPort":
        """Write the keymap's snippets into a file of an editor's own form."""
        from ombix.session import porting, snippet_files
        from ombix.session.resources import user_path

        dialect = self.resources.dialect(self.opener.editor(to))
        here = self.keymap()
        made = snippet_files.carry(here, dialect, to, self.resources)
        if not made.text:
            return made.report
        usual = here.context.folder / porting.FOLDER / to / made.file
        path = user_path(output, self.opener.folder) if output else usual
        self.writer(*([path] if output else [])).change(f"macro port --to {to}", lambda: {path: made.text}, dry_run)
        return made.report._replace(file=str(path))

    def adopt_snippets(self, file: str, editor: str, wishes: EditWishes = PLAIN_EDIT) -> "AdoptedSnippets":
        """Take the snippets of an editor's own file into the keymap."""
        from ombix.session import snippet_files

        dialect = self.resources.dialect(self.opener.editor(editor))
        return snippet_files.adopt(self.read(file), file, dialect, self.resources, self._editing(), wishes)

    def bind(self, wanted: "WantedBinding", wishes: EditWishes = PLAIN_EDIT) -> "ChangeReport":
        """Give an action keys in the workspace's keymap, or in another layer."""
        from ombix.session import edits

        return edits.bind(wanted, self._editing(), wishes)

    def unbind(self, *what: str, where: str = "", why: str = "", wishes: EditWishes = PLAIN_EDIT) -> "ChangeReport":
        """Take the keys of an action away, or one of them; or have keys do nothing."""
        from ombix.session import edits

        return edits.unbind(edits.Unwanted(what, where, why), self._editing(), wishes)

    def move(self, *what: str, to: str, wishes: EditWishes = PLAIN_EDIT) -> "ChangeReport":
        """Put what is bound on other keys: an action, keys, or an action and one of its keys."""
        from ombix.session import edits

        return edits.move(what, to, self._editing(), wishes)

    def narrow(self, *what: str, where: str, wishes: EditWishes = PLAIN_EDIT) -> "ChangeReport":
        """Have what is bound hold only when a condition is true."""
        from ombix.session import edits

        return edits.narrow(what, where, self._editing(), wishes)

    def _editing(self, lenient: bool = False) -> "KeymapEditing":
        from ombix.session.changing import KeymapEditing

        return KeymapEditing(self.opener, self.resources, self.writer(), lenient)

    def fold(self, files: Mapping[str, str], output: str, dry_run: bool = False) -> "FoldReport":
        """Put the keymaps of several platforms, by the platform's name, into one file."""
        from ombix.session import folding
        from ombix.session.resources import user_path

        paths = {name: user_path(file, self.opener.folder) for name, file in files.items()}
        goal = user_path(output, self.opener.folder)
        return folding.fold(paths, goal, self.resources, self.writer(goal), dry_run)

    def adopt(self, file: str, *, editor: str = "", name: str = "", dry_run: bool = False) -> "Adoption":
        """Read an editor's own file into the workspace as a layer."""
        from ombix.session import adopting
        from ombix.session.resources import user_path

        found = adopting.read(user_path(file, self.opener.folder), editor, name, self.opener, self.resources)
        return adopting.adopt(found, self.opener, self.resources, self.writer(), dry_run)

    def settling(
        self, *, rules: Sequence[str] = (), without: Sequence[str] = (), severity: str = "note", editor: str = "", on: str = "",
        why: str = "",
    ) -> "Settling":  # fmt: skip
        """What settles the findings of the rules named (none: of all), from a severity on; `why` is the reason with which a
        finding may be accepted."""
        from ombix.session import auditing
        from ombix.session.settling import Settling
        from ombix.session.ways_out import SettlingOf

        chosen = tuple(auditing.choose_rules(rules, without, severity, self._severities()))
        platform = self.opener.platform(on, self.opener.editor(editor) if editor else None).name
        return Settling(self._editing(lenient=True), SettlingOf(chosen, platform, editor, why))

    def write_settled(self, settled: "SettledFile", dry_run: bool = False) -> "SettleReport":
        """Write what was settled, as one change that can be taken back."""
        from ombix.session import settling

        return settling.write_settled(settled, self._editing(), self.writer(), dry_run)

    def draft_plan(self, settled: "SettledFile", plan: str, dry_run: bool = False) -> "SettleReport":
        """Write a plan of what was chosen, to be reviewed; the keymap stays as it is."""
        from pathlib import Path

        from ombix.core.errors import Place
        from ombix.session import plans, settling
        from ombix.store.files import absolute

        found = settling.report(settled, self._editing())
        text = plans.plan_text(found, Path(found.file.file).name, plan)
        (path,) = self.write(f"draft {plan}", {plan: text}, dry_run)
        return found._replace(plan=Place(absolute(path)))

    def merge(self, base: str, ours: str, theirs: str, *, path: str = "") -> "Merging":
        """Merge two versions of a keymap, a workspace or an editor's own file with a common ancestor; it belongs at `path`, where
        `ours` is a copy of it."""
        from ombix.session import merging, merging_editor_files
        from ombix.session.resources import user_path

        here = self.opener.folder
        paths = [user_path(name, here) for name in (base, ours, theirs)]
        texts = [self.resources.files.read_text(one) for one in paths]
        names = (str(paths[0]), str(paths[1]), str(paths[2]))
        found = merging.Versions(user_path(path or ours, here), texts[0], texts[1], texts[2], names)
        opener = self.opener
        if self._path is None:  # the workspace is that of the file, wherever the call is made
            from ombix.session.context import Opener, Source

            opener = Opener(found.path.parent, Source(None), self.resources)
        merged = merging_editor_files.merge(found, opener, self.resources)
        return merged if merged is not None else merging.merge(found, opener, self.resources)

    def changes(self, revisions: str = "", *, staged: bool = False) -> "VersionChanges":
        """What changed by meaning between two versions in git: `REV..REV`; or since one (none: the last commit), to the files as
        they are, or as they are `staged`."""
        from ombix.session import since

        found = since.between(revisions, staged, self.opener, self.resources)
        return since.changes(found, self.opener, self.resources)

    def blame(self, keys: str, *, editor: str = "", on: str = "") -> "BlameReport":
        """Which commit gave keys the meaning that they have."""
        from ombix.session import blaming

        return blaming.blame(blaming.BlamedKeys(keys, editor, on), self.opener, self.resources)

    def git_setup(self, program: str, user: bool = False) -> "GitSetUp":
        """What sets Ombix up in the repository of the folder of the call, or for a `user`; `program` is how it is called there."""
        from ombix.session.git_setup import GitSetUp, SetUpWishes, editor_files
        from ombix.session.versions import Repository

        wishes = SetUpWishes(user, program, editor_files(self.opener))
        return GitSetUp(Repository(self.opener.folder), wishes, lambda paths: self.writer(*paths))

    def audit_staged(self, severity: str = "error") -> "StagedReport":
        """What is wrong with what is staged in the repository of the folder of the call, and was not in the last commit."""
        from ombix.session.staged import audit_staged
        from ombix.session.versions import Repository

        return audit_staged(Repository(self.opener.folder), self.resources, severity)

    def check_nothing_open(self) -> None:
        """Raise InputError where a merge left something open in what is staged."""
        from ombix.session.staged import check_nothing_open
        from ombix.session.versions import Repository

        check_nothing_open(Repository(self.opener.folder))

    def path(self, file: str) -> "Path":
        """The path of a file that a user named."""
        from ombix.session.resources import user_path

        return user_path(file, self.opener.folder)

    def apply(self, wishes: "ApplyWishes") -> "ApplyReport":
        """Write the keymap into the editors' own files."""
        return self._applying().apply(wishes)

    def status(self, *editors: str) -> "StatusReport":
        """Where the editors of the workspace stand (none named: all)."""
        return self._applying().status(editors)

    def _applying(self) -> "Applying":
        from ombix.session.applying import Applying

        return Applying(self.opener, self.resources, self._state_folder(), self.writer, self._is_trusted)

    def undo(
        self, change: str = "", *, dry_run: bool = False, force: bool = False, skip: bool = False
    ) -> "UndoReport | None":
        """Take a change back, the newest or that of a name of the history; `force` also where the same lines were changed since,
        or with `skip` forget it; None where there is none."""
        from ombix.session import undoing

        return undoing.undo(self.writer(), change, dry_run, force, skip)

    def history(self, most: int = 20) -> "History":
        """The changes that can be taken back, the newest first."""
        from ombix.session import undoing

        return undoing.history(self.writer(), most)

    def files_on_this_machine(self) -> "list[Read]":
        """The key files of known editors at their usual places."""
        from ombix.session import adopting

        return adopting.on_this_machine(self.opener, self.resources)

    def start(
        self, name: str, found: "Sequence[Read]" = (), chosen: Sequence[str] = (), dry_run: bool = False
    ) -> "StartReport":
        """Start a workspace in the folder of the call, with the files of the editors chosen as layers (`all`: of all)."""
        from ombix.session import adopting
        from ombix.store.writing import Writer

        writer = Writer(self._state_folder(), self.opener.folder, (), self.say)
        taken, folder = adopting.choose(found, chosen), self.opener.folder
        return adopting.start(name, found, taken, folder, self.resources, writer, dry_run)

    def writer(self, *given: "Path") -> "Writer":
        """What writes here: for the workspace, or where there is none, for the folder of the call; and to files that were
        given by name."""
        from ombix.store.writing import Writer

        workspace = self.opener.workspace()
        home = workspace.folder if workspace is not None else self.opener.folder
        return Writer(self._state_folder(), home, given, self.say)

    def _state_folder(self) -> "Path":
        from pathlib import Path

        if self._state:
            return Path(self._state)
        import platformdirs

        return Path(platformdirs.user_state_dir("ombix"))

    # --- what is known

    def overview(self) -> "Overview":
        """Where things stand in the workspace."""
        from ombix.session.overview import overview

        return overview(self.opener.needed_workspace(), self.keymap(lenient=True), self.audit())

    def editors(self, name: str = "") -> "EditorList":
        """The editors that Ombix knows, or one of them."""
        from ombix.core.results.files import EditorList
        from ombix.session import knowing

        if not name:
            return knowing.editors(self.resources)
        return EditorList((self.editor(name),))

    def editor(self, name: str) -> "EditorAbilities":
        """What an editor's file can express, and how it decides."""
        from ombix.session import knowing

        return knowing.abilities(self.resources.dialects.load(name), self.resources.shipped.catalogue())

    def check_description(self, folder: str) -> "DescriptionReport":
        """Test a description of one's own."""
        from ombix.session import knowing
        from ombix.session.resources import user_path

        return knowing.check_description(user_path(folder, self.opener.folder), self.resources)

    def describe(self, wanted: "DraftRequest", *, dry_run: bool = False) -> "DraftReport":
        """Draft a description of an editor from samples of its key file, lists of its commands and of its default keys."""
        from ombix.session import describing

        return describing.describe(wanted, self.opener.folder, self.resources, self.writer, dry_run)

    def hardware(self) -> "KnownHardware":
        """The layouts, keyboards, terminals, desktops and platforms that Ombix knows."""
        from ombix.session import knowing

        return knowing.hardware(self.resources)

    def layout(self, name: str) -> "LayoutKeys":
        """What is on the keys of a layout."""
        from ombix.session import knowing

        return knowing.layout(name, self.opener.folder, self.resources)

    # --- look-ups

    def _look_ups(self, editor: str, on: str, layout: str) -> "LookUps":
        from ombix.session.look_ups import LookUps, system_key

        path = self._path if self._path is not None else _nearest(self.folder)
        source = os.path.join(self.folder, os.path.expanduser(path)) if path else ""  # noqa: PTH111, PTH118
        here = self.folder if layout or editor or not source else ""
        key = "\0".join((source, self._kind, self._editor, editor, on, layout, here, self._machine, system_key()))
        if key not in self._asked:
            self._asked[key] = LookUps(self._cache, key, lambda: self.keymap(editor, on, layout), self.files)
        return self._asked[key]


def _not_applying(here: "EffectiveKeymap", within: "States | None") -> "Callable[[Trigger], tuple[NotApplying, ...]]":
    """The bindings of keys that do not apply in these states."""
    from ombix.core.keymap import effective_states
    from ombix.core.results.looking import NotApplying

    def find_them(trigger: "Trigger") -> "tuple[NotApplying, ...]":
        table = here.tables.get(trigger)
        if table is None or within is None:
            return ()
        bound = [*(row.binding for row in table.rows), *table.losers]
        return tuple(
            NotApplying(str(one.outcome), one.place, one.layer.name, one.where)
            for one in bound
            if not here.space.overlap(within, effective_states(one, here.space, here.catalogue))
        )

    return find_them


def _nearest(folder: str) -> str:
    """The nearest workspace file from a folder on, or an empty text."""
    while True:
        candidate = os.path.join(folder, _WORKSPACE_FILE)  # noqa: PTH118
        if os.path.exists(candidate):  # noqa: PTH110
            return candidate
        above = os.path.dirname(folder)  # noqa: PTH120
        if above == folder:
            return ""
        folder = above
