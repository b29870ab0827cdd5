"""What installed packages bring along, each tried: whether it loads, and why it is not used."""

from collections.abc import Iterable

from ombix.core import report_forms
from ombix.core.audit import own_rules
from ombix.core.audit.packaged_rules import load as load_rule
from ombix.core.errors import OmbixError
from ombix.core.plug_ins import GROUPS, PlugIn, plug_ins
from ombix.editors.description_loading import Dialects
from ombix.editors.file_forms import form_of_files, forms_of_files
from ombix.work.describe.packages_answer import BroughtThing, PackagesReport


def packages(dialects: Dialects) -> PackagesReport:
    """All that installed packages bring. This runs their code, but for that of editors, which are data."""
    return PackagesReport(
        tuple(
            BroughtThing(GROUPS[group], one.name, one.package, one.value, _fault(one, dialects))
            for group in GROUPS
            for one in sorted(plug_ins(group).values())
        )
    )


def _fault(one: PlugIn, dialects: Dialects) -> str:
    """Why it is not used; empty where it is."""
    if one.name in _own(one.group, dialects):
        what = GROUPS[one.group]
        return f"Ombix has {'an' if what[0] in 'aeiou' else 'a'} {what} of this name"
    try:
        _load(one, dialects)
    except OmbixError as error:
        return error.what
    return ""


def _own(group: str, dialects: Dialects) -> Iterable[str]:
    """The names that Ombix has already."""
    match group:
        case "ombix.editors":
            return dialects.own_names()
        case "ombix.formats":
            return forms_of_files()
        case "ombix.rules":
            return own_rules()
    return report_forms.OWN


def _load(one: PlugIn, dialects: Dialects) -> None:
    match one.group:
        case "ombix.editors":
            dialects.load(one.name)
        case "ombix.formats":
            form_of_files(one.name)
        case "ombix.rules":
            load_rule(one)
        case _:
            report_forms.load(one)
