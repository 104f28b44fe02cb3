"""What hookset.toml says about checks still means something."""

from __future__ import annotations

from collections.abc import Iterable

from hookset.checks.declare import Case, UnplacedFinding, all_checks, check
from hookset.checks.examples import Example
from hookset.config.sheets import nearest
from hookset.model import Severity
from hookset.project import PROJECT_FILE

__all__ = ["accepted_nothing"]


@check(
    code="accepted-nothing",
    title="What is accepted is not found any more",
    severity=Severity.WARNING,
    why="it would hide the next finding of that sort, which nobody has looked at",
    remedy="take the entry out of hookset.toml",
    example=Example(fails={}, project='[[check.accept]]\ncode = "missing-file"\npath = "things.csv"\n'),
)
def accepted_nothing(case: Case) -> Iterable[UnplacedFinding]:
    """Yield the accepted findings of hookset.toml that no check has found."""
    for accepted in case.idle:
        entry = accepted.entry
        about = f" about `{entry.name}`" if entry.name != "*" else ""
        where = f" in {entry.path}" if entry.path != "**" else ""
        message = f"there is no finding `{entry.code}`{about}{where} to accept"
        yield UnplacedFinding(path=PROJECT_FILE, line=accepted.line, message=message, name=entry.code)


@check(
    code="no-such-check",
    title="A check that hookset.toml speaks of does not exist",
    severity=Severity.WARNING,
    why="what is said about it has no effect",
    remedy="correct the code; docs/checks.md lists them all",
    example=Example(fails={}, project='[check]\nseverity = { unsued-file = "off" }\n'),
)
def no_such_check(case: Case) -> Iterable[UnplacedFinding]:
    known = [one.code for one in all_checks()]
    said = [(code, case.terms.lines.get(code, 0)) for code in case.terms.severities]
    said += [(accepted.entry.code, accepted.line) for accepted in case.terms.accepted]
    for code, line in said:
        if code not in known:
            near = nearest(code, known)
            message = f"there is no check `{code}`{near if 'did you mean' in near else ''}"
            yield UnplacedFinding(path=PROJECT_FILE, line=line, message=message, name=code)
