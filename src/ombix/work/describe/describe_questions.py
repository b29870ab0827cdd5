"""Editors and their descriptions: the questions, each a function of an opened workspace."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ombix.work.describe.describe import DraftRequest
    from ombix.work.describe.describe_answer import DraftReport
    from ombix.work.describe.editors_answer import DescriptionReport, EditorAbilities, EditorList
    from ombix.work.describe.packages_answer import PackagesReport
    from ombix.workspace.open_workspace import OpenWorkspace
    from ombix.workspace.trust_answer import TrustReport


def editors(workspace: OpenWorkspace, name: str = "") -> EditorList:
    """The editors that Ombix knows, or one of them."""
    from ombix.work.describe import inventory
    from ombix.work.describe.editors_answer import EditorList

    if not name:
        return inventory.editors(workspace.resources)
    return EditorList((editor(workspace, name),))


def editor(workspace: OpenWorkspace, name: str) -> EditorAbilities:
    """What an editor's file can express, and how it decides."""
    from ombix.work.describe import inventory

    return inventory.abilities(workspace.resources.dialects.load(name), workspace.resources.shipped.catalogue())


def check_description(workspace: OpenWorkspace, folder: str) -> DescriptionReport:
    """Test a description of one's own."""
    from ombix.work.describe import inventory
    from ombix.workspace.resources import user_path

    return inventory.check_description(user_path(folder, workspace.opener.folder), workspace.resources)


def describe(workspace: OpenWorkspace, wanted: DraftRequest, *, dry_run: bool = False) -> DraftReport:
    """Draft a description of an editor from samples of its key file, lists of its commands and of its default keys."""
    from ombix.work.describe import describe

    return describe.describe(wanted, workspace.opener.folder, workspace.resources, workspace.writer, dry_run)


def packages(workspace: OpenWorkspace) -> PackagesReport:
    """What installed packages bring along, each tried. This runs their code."""
    from ombix.work.describe.packages import packages

    return packages(workspace.resources.dialects)


def trust(workspace: OpenWorkspace, folder: str, accept: bool = False) -> TrustReport:
    """What a description in a folder would start, and whether it is trusted; with `accept` it is, from now on."""
    from ombix.workspace import description_trust
    from ombix.workspace.resources import user_path

    path, trust = user_path(folder, workspace.opener.folder), workspace.trusted()
    found = description_trust.look(path, workspace.resources.dialects, trust)
    if not accept:
        return found
    description_trust.accept(path, workspace.resources.dialects, trust)
    return description_trust.look(path, workspace.resources.dialects, trust)


def forget_trust(workspace: OpenWorkspace, folder: str) -> bool:
    """Trust a folder no longer; whether it was trusted."""
    from ombix.workspace.resources import user_path

    return workspace.trusted().remove(user_path(folder, workspace.opener.folder))
