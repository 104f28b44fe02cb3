"""A map that changes while it is watched: what is told is what a check from nothing tells, whatever the changes are."""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import msgspec
import pytest

from hookset.checks import judge
from hookset.checks.judge import Verdict
from hookset.checks.watched import Watched, difference, judged_again, watched
from hookset.editor.opened import OpenedMap, edited
from hookset.model import Severity
from hookset.project import MapProject, read_ledger
from hookset.symbols.facts import Referred
from hookset.symbols.reach import _Loading
from hookset.symbols.resolve import _Judge
from hookset.trees import FolderTree, Inline, Overlay
from tests.conftest import run_hookset, snapshot, tell

EDITS = 40
WORDS = (b"tide", b"harbour", b"quay_bell", b"lamp_1", b"\n", b"\xff", b'"', b"{", b"textures/iron.png", b"-- ")

Edit = Callable[[Path, random.Random], None]


def files(root: Path) -> list[Path]:
    return sorted(path for path in root.rglob("*") if path.is_file() and ".hookset" not in path.parts)


def word_in(root: Path, choice: random.Random) -> None:
    """A word anywhere in a file: mostly a mistake."""
    path = choice.choice(files(root))
    data = path.read_bytes()
    at = choice.randrange(len(data) + 1)
    path.write_bytes(data[:at] + choice.choice(WORDS) + data[at:])


def part_out(root: Path, choice: random.Random) -> None:
    path = choice.choice(files(root))
    data = path.read_bytes()
    at = choice.randrange(len(data) + 1)
    path.write_bytes(data[:at] + data[at + choice.randrange(40) :])


def file_out(root: Path, choice: random.Random) -> None:
    choice.choice([path for path in files(root) if path.name != "hookset.toml"]).unlink()


def file_moved(root: Path, choice: random.Random) -> None:
    one, other = (choice.choice([path for path in files(root) if path.name != "hookset.toml"]) for _ in range(2))
    one.rename(other.with_name(choice.choice((one.name, f"new_{one.name}", one.name.upper()))))


def file_back(root: Path, choice: random.Random) -> None:
    """As it was at first: what went comes again."""
    first = root.parent / "first"
    path = choice.choice(files(first))
    target = root / path.relative_to(first)
    target.parent.mkdir(parents=True, exist_ok=True)
    shutil.copy2(path, target)


EDITING: tuple[Edit, ...] = (word_in, part_out, file_out, file_moved, file_back, file_back, file_back)


def from_nothing(last: Watched) -> Verdict:
    project = last.project
    return judge(project.tree, project.layout, project.stock, read_ledger(project.root), project.terms)


def said(verdict: Verdict) -> bytes:
    """All that is told, and what the game loads."""
    reach = verdict.case.analysis.reach
    return msgspec.msgpack.encode((verdict.summary, sorted((path, sorted(on)) for path, on in reach.sides.items())))


@pytest.mark.no_cover
@pytest.mark.parametrize("seed", [1, 2])
def test_after_each_edit_it_is_what_a_check_from_nothing_says(seed: int, packed: MapProject) -> None:
    choice = random.Random(seed)
    shutil.copytree(packed.root, packed.root.parent / "first")
    last = watched(packed)
    verdicts = {said(from_nothing(last))}
    for _ in range(EDITS):
        for _ in range(choice.choice((1, 1, 1, 3))):
            choice.choice(EDITING)(packed.root, choice)
        # Nobody tells of it: sizes, numbers and times do.
        last, _ = judged_again(last, ())
        truth = from_nothing(last)
        assert said(last.verdict) == said(truth)
        assert last.verdict.case.analysis.reach.via == truth.case.analysis.reach.via
        verdicts.add(said(truth))
    assert len(verdicts) > EDITS // 3
    tell(f"{EDITS} edits of a watched map, {len(verdicts)} different verdicts")


def test_what_is_typed_is_judged_as_if_it_were_saved(packed: MapProject, monkeypatch: pytest.MonkeyPatch) -> None:
    choice = random.Random(3)
    # So few that what has changed is read as a whole now and then.
    monkeypatch.setattr("hookset.checks.watched._MOST_CHANGED", 8)
    opened = OpenedMap(watched(packed), {})
    before = snapshot(packed.root)
    verdicts = set()
    for _ in range(EDITS // 2):
        path = choice.choice([one for one in packed.tree.paths() if one.endswith((".lua", ".toml", ".txt", ".gltf"))])
        data = opened.unsaved.get(path, before[path])
        at = choice.randrange(len(data) + 1)
        typed = {} if choice.random() < 0.2 else {path: data[:at] + choice.choice(WORDS) + data[at:]}
        opened = edited(opened, typed, () if typed else [path])
        tree = Overlay(packed.tree, {path: Inline(data) for path, data in opened.unsaved.items()})
        truth = judge(tree, packed.layout, packed.stock, read_ledger(packed.root), packed.terms).summary
        assert msgspec.msgpack.encode(opened.watched.summary) == msgspec.msgpack.encode(truth)
        verdicts.add(msgspec.msgpack.encode(truth))
    assert len(verdicts) > 10 and snapshot(packed.root) == before


def test_where_things_stand_is_looked_at_once(project: MapProject, monkeypatch: pytest.MonkeyPatch) -> None:
    last = watched(project)
    monkeypatch.setattr("hookset.scene.scene.things_of", None)
    script = project.root / "scripts/server/main.lua"
    script.write_bytes(script.read_bytes() + b"-- more\n")
    again, changed = judged_again(last, ())
    assert changed and again.verdict.standing is last.verdict.standing
    scene = project.root / "scene/brackwater.gltf"
    scene.write_bytes(scene.read_bytes() + b"\n")
    with pytest.raises(TypeError):
        judged_again(again, ())


def test_only_what_has_changed_is_read(project: MapProject, monkeypatch: pytest.MonkeyPatch) -> None:
    last = watched(project)
    read: list[str] = []
    plain = FolderTree.read

    def noting(tree: FolderTree, path: str) -> bytes:
        read.append(path)
        return plain(tree, path)

    monkeypatch.setattr(FolderTree, "read", noting)
    script = project.root / "scripts/server/main.lua"
    script.write_bytes(script.read_bytes() + b"-- more\n")
    last, changed = judged_again(last, ("scripts/server/main.lua",))
    assert changed == ("scripts/server/main.lua",)
    # What says where things stand is looked at as a whole; of all else only what has changed.
    assert "scripts/server/main.lua" in read and not [path for path in read if path.startswith(("models/", "texts/"))]
    assert len({*read}) < 6 < len(project.tree.paths())
    # What is saved as it was is no change.
    script.touch()
    again, changed = judged_again(last, ("scripts/server/main.lua",))
    assert changed == () and again.verdict is last.verdict


def test_only_references_of_what_has_changed_are_judged(project: MapProject, monkeypatch: pytest.MonkeyPatch) -> None:
    last = watched(project)
    looked: list[Referred] = []
    followed: list[object] = []
    plain, follow = _Judge.doubtful, _Loading.follow

    def noting(judge: _Judge, block: Referred) -> Sequence[int]:
        looked.append(block)
        return plain(judge, block)

    monkeypatch.setattr(_Judge, "doubtful", noting)

    def following(loading: _Loading) -> None:
        followed.append(loading)
        follow(loading)

    monkeypatch.setattr(_Loading, "follow", following)
    script = project.root / "scripts/server/main.lua"
    text = script.read_text()
    script.write_text(text + 'play_sound("nowhere")\n')
    last, _ = judged_again(last, ())
    assert [one.name for one in last.summary.findings if one.severity is Severity.ERROR] == ["nowhere"]
    (facts,) = [one for one in last.verdict.case.web.files if one.path == "scripts/server/main.lua"]
    assert looked == [*facts.referred] and not followed
    # What leads to other files than before is followed.
    script.write_text(text.replace('require("tide")', ""))
    last, _ = judged_again(last, ())
    assert followed and said(last.verdict) == said(from_nothing(last))


def test_a_file_that_is_written_twice_within_a_tick_is_read_again(project: MapProject) -> None:
    """Where times and sizes are the same, only whoever saw it written knows."""
    last = watched(project)
    script = project.root / "scripts/server/main.lua"
    state = script.stat()
    with script.open("r+b") as stream:
        stream.write(script.read_bytes().replace(b'"tide"', b'"tidy"'))
    os.utime(script, ns=(state.st_atime_ns, state.st_mtime_ns))
    last, _ = judged_again(last, ("scripts/server/main.lua",))
    assert {one.name for one in last.summary.findings} == {"tidy"}


def test_what_a_pack_sets_is_judged_by_the_ledger(project: MapProject) -> None:
    last = watched(project)
    packs = project.root.parent / "packs"
    assert run_hookset(project.root, "install", str(packs / "fog-bell.zip")).code == 0
    last, _ = judged_again(last, ())
    assert len(last.verdict.case.ledger.packs) == 1
    assert last.summary == from_nothing(last).summary


def test_findings_come_and_go_by_what_they_are(project: MapProject) -> None:
    script = project.root / "scripts/server/main.lua"
    text = script.read_text(encoding="utf-8")
    script.write_text(text.replace('"tide"', '"tid"'), encoding="utf-8")
    one = watched(project)
    # The same mistake in another line is no news.
    script.write_text("\n\n" + text.replace('"tide"', '"tid"').replace('"harbour"', '"harbur"'), encoding="utf-8")
    other, _ = judged_again(one, ())
    found = difference(one.summary.findings, other.summary.findings)
    assert "harbur" in {f.name for f in found.came} and "tid" not in {f.name for f in found.came}
    assert found.went == ()
    script.write_text(text, encoding="utf-8")
    last, _ = judged_again(other, ())
    found = difference(other.summary.findings, last.summary.findings)
    assert found.came == () and {"harbur", "tid"} <= {f.name for f in found.went}


def overlays() -> Iterator[tuple[dict[str, bytes | None], dict[str, bytes | None], set[str]]]:
    yield {}, {"a": b"1"}, {"a"}
    yield {"a": b"1"}, {}, {"a"}
    yield {"a": b"1", "b": None}, {"a": b"2", "b": None}, {"a"}
    yield {"a": None}, {"a": None}, set()


@pytest.mark.parametrize(("one", "other", "differ"), list(overlays()))
def test_two_trees_over_the_same_differ_where_they_were_changed(
    one: dict[str, bytes | None], other: dict[str, bytes | None], differ: set[str], tmp_path: Path
) -> None:
    (tmp_path / "a").write_bytes(b"0")
    base = FolderTree(tmp_path)
    first, second = (
        Overlay(base, {path: None if data is None else Inline(data) for path, data in said.items()})
        for said in (one, other)
    )
    assert second.differs_from(first) == frozenset(differ)
    assert second.differs_from(base) == frozenset(other)
    assert second.differs_from(FolderTree(tmp_path)) is None
