"""The safe mends of a check's findings, as a plan: nothing is written, and nothing new may go wrong by it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct

from hookset.applying.change import Change
from hookset.checks import Verdict, judge
from hookset.formats import Body, Document, Edit, Edits, Unreadable, format_named, open_file, spliced, text_of
from hookset.formats.document import placement_at
from hookset.model import AddRow, CouldNotError, DropRow, Finding, Respell
from hookset.planning.preview import new_findings
from hookset.project import Ledger, MapProject
from hookset.symbols import FactsCache
from hookset.trees import Content, Inline, Member, Overlay, Text, Tree, sha256_of

__all__ = ["MendPlan", "plan_mend"]

_ROUNDS = 4
"""A name can be wrong in two ways, one of which is seen only when the other is mended."""


class MendPlan(Struct, frozen=True):
    """What mending would do."""

    before: Verdict
    after: Verdict
    changes: tuple[Change, ...]
    mended: tuple[Finding, ...]
    left: tuple[Finding, ...]
    """Findings that could be mended in principle, and could not here: the spot does not read as was expected."""


def plan_mend(project: MapProject, ledger: Ledger, cache: FactsCache | None = None) -> MendPlan:
    """Mend what can be mended without a choice. A file whose mends would bring a new finding stays as it is."""
    tree = project.tree
    before = verdict = _judged(project, tree, ledger, cache)
    contents: dict[str, Content | None] = {}
    given_up: set[str] = set()
    for _ in range(_ROUNDS):
        fresh = {
            path: content
            for path, content in _mended(project, Overlay(tree, contents), verdict.findings).items()
            if path not in given_up
        }
        if not fresh:
            break
        after = _judged(project, Overlay(tree, contents | fresh), ledger, cache, before)
        if not new_findings(verdict.summary, after):
            contents |= fresh
            verdict = after
            continue
        # Which of the files it is shows when each is mended by itself.
        for path, content in fresh.items():
            after = _judged(project, Overlay(tree, contents | {path: content}), ledger, cache, before)
            if new_findings(verdict.summary, after):
                given_up.add(path)
            else:
                contents[path] = content
                verdict = after
    standing = {finding.identity for finding in verdict.findings}
    mendable = [finding for finding in before.findings if finding.mend is not None]
    return MendPlan(
        before=before,
        after=verdict,
        changes=tuple(
            Change(path=path, before=sha256_of(Member(tree, path)), after=content)
            for path, content in sorted(contents.items())
        ),
        mended=tuple(finding for finding in before.findings if finding.identity not in standing),
        left=tuple(finding for finding in mendable if finding.identity in standing),
    )


def _judged(
    project: MapProject, tree: Tree, ledger: Ledger, cache: FactsCache | None, last: Verdict | None = None
) -> Verdict:
    return judge(tree, project.layout, project.stock, ledger, project.terms, cache, last)


def _mended(project: MapProject, tree: Tree, findings: Sequence[Finding]) -> dict[str, Content]:
    """The contents of the files in which something can be mended."""
    spots: dict[str, list[Respell | DropRow]] = {}
    rows: list[AddRow] = []
    for finding in findings:
        if isinstance(finding.mend, AddRow):
            rows.append(finding.mend)
        elif finding.mend is not None:
            spots.setdefault(finding.mend.path, []).append(finding.mend)
    contents: dict[str, Content] = {}
    for path, mends in spots.items():
        if (content := _edited(project, tree, path, mends)) is not None:
            contents[path] = content
    for seat in dict.fromkeys(row.seat for row in rows):
        path, content = _with_rows(project, Overlay(tree, contents), seat, [row for row in rows if row.seat == seat])
        if content is not None:
            contents[path] = content
    return contents


def _edited(project: MapProject, tree: Tree, path: str, mends: Iterable[Respell | DropRow]) -> Content | None:
    opened = _opened(project, tree, path)
    if opened is None:
        return None
    text, document = opened
    edits: list[Edit] = []
    for mend in mends:
        edit = _respelt(text, document, mend) if isinstance(mend, Respell) else _dropped(text, mend)
        if edit is not None and not any(edit.start < other.end and other.start < edit.end for other in edits):
            edits.append(edit)
    return Inline(text.encode(spliced(text.string, edits))) if edits else None


def _opened(project: MapProject, tree: Tree, path: str) -> tuple[Text, Document] | None:
    rule = project.layout.text_rule(path)
    if rule is None:
        return None
    form = format_named(rule.format)
    try:
        return open_file(form, tree.read(path), rule.encodings, rule.options)
    except (Unreadable, CouldNotError):
        return None


def _respelt(text: Text, document: Document, mend: Respell) -> Edit | None:
    """Where the name is written, once, in the value that the finding is about. Backslashes may be doubled there."""
    if mend.written and isinstance(mend.where, int) and text.string.startswith(mend.written, mend.where):
        return Edit(mend.where, mend.where + len(mend.written), mend.right)
    start, end = document.spans([mend.where]).get(mend.where, (0, 0))
    written = text.string[start:end]
    for old in (mend.written.replace("\\", "\\\\"), mend.written):
        if old and written.count(old) == 1:
            at = start + written.index(old)
            return Edit(at, at + len(old), mend.right)
    return None


def _dropped(text: Text, mend: DropRow) -> Edit | None:
    if not isinstance(mend.where, int):
        return None
    start = text.string.rfind("\n", 0, mend.where) + 1
    end = text.string.find("\n", mend.where) + 1 or len(text.string)
    return Edit(start, end, "")


def _with_rows(project: MapProject, tree: Tree, name: str, rows: Iterable[AddRow]) -> tuple[str, Content | None]:
    """A list with further rows, each set at their seat."""
    seat = project.layout.seats[name]
    paths = [path for path in tree.paths() if seat.file.matches(path)]
    if len(paths) != 1:
        return "", None
    form = format_named(seat.format)
    try:
        before = text = text_of(form, tree.read(paths[0]), seat.encodings)
        for row in rows:
            body = Body(text=row.text, record=row.record)
            placement = placement_at(form.open(text, seat.options), seat.put, body)
            if isinstance(placement, Edits):
                text = text_of(form, text.encode(spliced(text.string, placement.edits)), seat.encodings)
    except (Unreadable, CouldNotError):
        return "", None
    return paths[0], Inline(text.encode(text.string)) if text.string != before.string else None
