"""Descriptions that may start a program: what they would start, and whether their user trusts them."""

from pathlib import Path

from ombix.core.errors import InputError, Place
from ombix.data.platform_names import this_platform
from ombix.editors.description_loading import Dialects
from ombix.editors.dialect import Dialect
from ombix.files.disk import absolute
from ombix.files.trusted_folders import Trust
from ombix.workspace.trust_answer import TrustReport


def look(folder: Path, dialects: Dialects, trust: Trust) -> TrustReport:
    """What a description in a folder would start, and whether it is trusted. Raises InputError where there is none, or
    where it comes with Ombix or with an installed package."""
    if dialects.is_installed(folder):
        raise InputError("this description is an installed one", "It needs no trust of yours.", Place(absolute(folder)))
    dialect = dialects.load(absolute(folder))
    known = trust.digest_of(folder)
    now = dialects.digest_of(dialect)
    program = dialect.description.program
    return TrustReport(
        Place(absolute(folder)), dialect.description.title, tuple(program.command) if program is not None else (),
        dict(program.environment) if program is not None else {},
        tuple(sorted(absolute(file) for file in dialect.files if Path(file).is_file())),
        "trusted" if known == now else "changed" if known else "new",
        tuple(dialect.usual_places(this_platform())),
    )  # fmt: skip


def accept(folder: Path, dialects: Dialects, trust: Trust) -> None:
    """Trust a description as it was looked at. Raises InputError where it has changed since."""
    digest = dialects.digest_of(dialects.load(absolute(folder)))
    if not digest:
        raise InputError(
            "the description has changed while it was looked at", "Look at it again.", Place(absolute(folder))
        )
    trust.add(folder, digest)


def is_trusted(dialect: Dialect, dialects: Dialects, trust: Trust) -> bool:
    """Whether a description comes with Ombix or an installed package, or its user trusts it as it is now."""
    if dialects.is_installed(dialect.home):
        return True
    known = trust.digest_of(dialect.home)
    return bool(known) and known == dialects.digest_of(dialect)


def require_trusted(dialect: Dialect, dialects: Dialects, trust: Trust) -> None:
    """Raise InputError for a description that comes from a folder that its user does not trust as it is now."""
    if dialect.description.program is None or is_trusted(dialect, dialects, trust):
        return
    what = (
        "has changed since you trusted it"
        if trust.digest_of(dialect.home)
        else "does not come with Ombix, and could start any program"
    )
    raise InputError(
        f"the description of {dialect.name} {what}",
        "Look at what it would start: ombix editors trust FOLDER. Without it: --on-stage",
        Place(absolute(dialect.home / "dialect.toml")),
    )
