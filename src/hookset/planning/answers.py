"""What was decided in a map, so that it can be decided alike in another."""

from __future__ import annotations

from pathlib import Path

from hookset.planning.choices import Answers, Choices
from hookset.project import Ledger, LedgerPack

__all__ = ["answers_in"]


def answers_in(ledger: Ledger, root: Path) -> Choices:
    """The choices that made a map what it is. `root` is its folder: files that filled blanks are taken from there."""
    return Choices(packs={pack.name: _of(pack, root) for pack in ledger.packs}, words=ledger.words)


def _of(pack: LedgerPack, root: Path) -> Answers:
    files: dict[str, str] = {file.blank: str(root / file.path) for file in pack.files if file.blank}
    return Answers(
        version=pack.version,
        parts=pack.parts,
        settings={one.name: one.value for one in pack.settings},
        claims=pack.claims,
        blanks={one.name: files.get(one.name, one.filled) for one in pack.blanks if one.filled},
        renamed=pack.renamed,
        moved=pack.moved,
        files={
            file.path: "mine" if file.kept_mine else "theirs"
            for file in pack.files
            if file.kept_mine or file.instead_of
        },
    )
