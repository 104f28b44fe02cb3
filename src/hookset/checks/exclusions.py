"""Packs stand beside nothing that they exclude."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec import Struct

from hookset.checks.declare import Case, UnplacedFinding, check
from hookset.checks.examples import Example
from hookset.model import Severity, Where, sides_meet
from hookset.project import LEDGER, LedgerExclusion, LedgerPack
from hookset.trees import Glob

__all__ = ["Clash", "ExclusionState", "exclusion_states"]

_PACK, _FILE = "pack", "file"


class Clash(Struct, frozen=True):
    """Something in the map that a pack cannot stand beside."""

    path: str
    what: str
    where: Where | None = None
    """None: the file as a whole."""
    pack: str = ""
    """The pack that it is, if it is one."""


class ExclusionState(Struct, frozen=True):
    """One exclusion, and whether this map keeps to it."""

    exclusion: LedgerExclusion
    found: tuple[Clash, ...]
    """What stands in the map and must not."""
    known: bool = True
    """Whether it could be looked for: the layout knows the kind."""


@check(
    code="beside-excluded",
    title="A pack stands beside what it cannot stand beside",
    severity=Severity.ERROR,
    why="its author says that the two do not work together",
    remedy="take one of the two out",
    example=Example(
        fails={"client/fog.lua": "play('creak')\n"},
        passes={"client/frog.lua": "play('creak')\n"},
        excluded=("file", "client/fog*.lua"),
    ),
)
def beside_excluded(case: Case) -> Iterable[UnplacedFinding]:
    for pack in case.ledger.packs:
        for state in exclusion_states(pack, case):
            one = state.exclusion
            if not state.known:
                yield UnplacedFinding(
                    path=LEDGER,
                    message=f"{pack.name} cannot stand beside the {one.kind} `{one.name}`, and the layout "
                    f"{case.layout.name} knows nothing of the kind {one.kind}: nobody has looked for it",
                    why=one.why,
                    remedy="look for it yourself, and accept this finding in hookset.toml",
                    severity=Severity.WARNING,
                    kind=one.kind,
                    name=f"{pack.name}.{one.name}",
                )
            elif state.found:
                first = state.found[0]
                more = f" and {len(state.found) - 1} more" if state.found[1:] else ""
                instead = f"hookset remove {first.pack}" if first.pack else f"take {first.what} out of the map"
                yield UnplacedFinding(
                    path=first.path,
                    where=first.where,
                    message=f"{pack.name} cannot stand beside {first.what}{more}",
                    why=one.why,
                    remedy=f"take one of the two out: hookset remove {pack.name}, or {instead}",
                    kind=one.kind,
                    name=f"{pack.name}.{one.name}",
                )


def exclusion_states(pack: LedgerPack, case: Case) -> Iterator[ExclusionState]:
    """Each exclusion of an installed pack, and what of the map it means. What the pack itself has brought or set is
    never meant."""
    for one in pack.excludes:
        known = one.kind in (_PACK, _FILE) or one.kind in case.layout.kinds
        yield ExclusionState(one, tuple(_clashes(one, pack, case)), known)


def _clashes(exclusion: LedgerExclusion, pack: LedgerPack, case: Case) -> Iterator[Clash]:
    if exclusion.kind == _PACK:
        other = case.ledger.pack(exclusion.name)
        if other is not None and _of_version(other, exclusion.version):
            yield Clash(LEDGER, f"the pack {other.name} {other.version}", pack=other.name)
    elif exclusion.kind == _FILE:
        pattern, own = Glob(exclusion.name), {file.path for file in pack.files}
        for path in case.web.tree.paths():
            if pattern.matches(path) and path not in own:
                yield Clash(path, f"the file {path}")
    elif exclusion.kind in case.layout.kinds:
        yield from _named(exclusion, pack, case)


def _named(exclusion: LedgerExclusion, pack: LedgerPack, case: Case) -> Iterator[Clash]:
    label = case.layout.kinds[exclusion.kind].label
    own = {file.path for file in pack.files}
    set_by_pack = [hook.path for hook in pack.hooks if not hook.was_there and exclusion.name in hook.shown]
    for one in case.index.get(exclusion.kind, exclusion.name):
        if one.path in set_by_pack:
            # The map may have another of that name in the same file.
            set_by_pack.remove(one.path)
        elif one.path not in own and sides_meet(one.side, exclusion.side):
            yield Clash(one.path, f"the {label} `{exclusion.name}`", one.where)


def _of_version(pack: LedgerPack, version: str) -> bool:
    # Imported here: most checks compare no versions, and would wait for it.
    from packaging.specifiers import SpecifierSet

    return not version or SpecifierSet(version).contains(pack.version, prereleases=True)
