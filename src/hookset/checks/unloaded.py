"""Files that the game never loads: what would be wrong in them is no error, and is told once for each."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from hookset.checks.declare import Case, Check, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.model import Severity

__all__ = ["apart", "in_unloaded_file"]

Found = tuple[Check, UnplacedFinding]


@check(
    code="in-unloaded-file",
    title="A file that the game never loads would have findings if it did",
    severity=Severity.NOTE,
    why="nothing of it is in the game, so it does no harm; whoever has it loaded again meets what is wrong in it",
    remedy="have it loaded, and correct it then; or take it out",
    example=Example(
        fails={"server/old.lua": 'play("craek")\n'},
        passes={"server/old.lua": 'play("creak")\n'},
    ),
)
def in_unloaded_file(case: Case) -> Iterable[UnplacedFinding]:
    """Yield one finding for each such file."""
    for path, found in case.unloaded.items():
        first = found[0]
        more = f", and {len(found) - 1:,} more" if len(found) > 1 else ""
        yield UnplacedFinding(
            path=path,
            where=first.where,
            line=first.line,
            message=f"nothing loads this file; if something did: {first.message}{more}",
            name=path,
        )


def apart(case: Case, drafts: Sequence[Found]) -> tuple[list[Found], dict[str, tuple[UnplacedFinding, ...]]]:
    """What counts, and what would be wrong in files that the game never loads."""
    counted: list[Found] = []
    unloaded: dict[str, list[UnplacedFinding]] = {}
    known = {file.path for file in case.web.files}
    for one, draft in drafts:
        if one.loaded and draft.loaded and draft.path in known and _never_loaded(case, draft.path):
            unloaded.setdefault(draft.path, []).append(draft)
        else:
            counted.append((one, draft))
    return counted, {path: tuple(found) for path, found in unloaded.items()}


def _never_loaded(case: Case, path: str) -> bool:
    """Builders and the game's own tools read the manifest's lists and the descriptor, whatever the game does."""
    layout = case.layout
    if path in case.reach:
        return False
    lists = layout.manifest.lists if layout.manifest is not None else ()
    own = layout.descriptor is not None and layout.descriptor.file == path
    return not own and not any(glob.matches(path) for glob in lists)
