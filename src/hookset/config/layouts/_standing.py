"""From a layout file's entries to the rules that say where things stand."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from itertools import pairwise
from typing import Any, TypeVar

from msgspec import structs

from hookset.config.layouts._compiler import LayoutCompiler
from hookset.config.layouts.placing import PlacedEntry, PointEntry, StandEntry, TrackEntry, TurnEntry, VolumeEntry
from hookset.config.layouts.positions import (
    NumberWay,
    PartCondition,
    PlacedRule,
    Point,
    Positions,
    StandRule,
    TrackRule,
    TurnRule,
    VolumeRule,
)
from hookset.config.layouts.rules import ValueQuery
from hookset.config.layouts.tables import ValueEntry
from hookset.config.sheets import nearest
from hookset.formats import format_named

__all__ = ["position_rules"]

_NTH = re.compile(r"(?P<way>.*\S) (?P<nth>[1-9][0-9]?)")
_PREFAB_WORDS = frozenset({"value", "folder"})
_NUMBERS = {"quaternion": 4, "matrix": 9}


def position_rules(compiler: LayoutCompiler) -> Positions:
    """All that the layout says of where things stand."""
    entry = compiler.entry
    made = Positions(
        space=entry.space,
        placed=tuple(_each(_placed(compiler, one, f"/placed/{i}") for i, one in enumerate(entry.placed))),
        volumes=tuple(_each(_volume(compiler, one, f"/volume/{i}") for i, one in enumerate(entry.volume))),
        tracks=tuple(_each(_track(compiler, one, f"/track/{i}") for i, one in enumerate(entry.track))),
        stands=tuple(_stand(compiler, one, f"/stand/{i}") for i, one in enumerate(entry.stand)),
    )
    names = [one.name for one in entry.placed]
    for index, name in enumerate(names):
        if name in names[:index]:
            compiler.complain(f"/placed/{index}/name", f"there are two [[placed]] called `{name}`")
    if entry.space.north.endswith(entry.space.up or "z"):
        compiler.complain("/space/north", "north is along the ground, and this axis goes up")
    return made


_T = TypeVar("_T")


def _each(made: Iterator[_T | None]) -> Iterator[_T]:
    return (one for one in made if one is not None)


def _placed(compiler: LayoutCompiler, entry: PlacedEntry, at: str) -> PlacedRule | None:
    asked = _asked(compiler, entry.file, entry.ask, at)
    if asked is None:
        return None
    if entry.kind:
        compiler.known_kind(entry.kind, f"{at}/kind")
    if entry.kind and not entry.key:
        compiler.complain(f"{at}/kind", "names of a kind are keys: say with `key` where they stand")
    compiler.known_seat(entry.seat, f"{at}/seat")
    for way, kind in entry.numbered.items():
        compiler.known_kind(kind, f"{at}/numbered/{way}")
        if kind in compiler.entry.kinds and compiler.entry.kinds[kind].numbers is None:
            compiler.complain(f"{at}/numbered/{way}", f"names of `{kind}` are no numbers")
    if sum((entry.nested, bool(entry.holds), bool(entry.inside))) > 1:
        compiler.complain(at, "one of `nested`, `holds` and `inside` says what a thing stands by")
    if entry.inside and not entry.key:
        compiler.complain(f"{at}/inside", "it names keys, and no `key` says where they stand")
    _check_prefabs(compiler, entry, at)
    flat = not compiler.entry.space.up
    rule = PlacedRule(
        entry=entry,
        asked=asked,
        at=_point(entry.at, flat) or (None, None, None),
        size=_size(entry.size),
        turn=_turn(compiler, entry.turn, f"{at}/turn"),
        matrix=tuple(NumberWay(entry.matrix, nth) for nth in range(16)) if entry.matrix else (),
        when=tuple(_conditions(entry.when)),
        folded=bool(entry.class_kind) and _folded(compiler, entry.class_kind, f"{at}/class_kind"),
        prefab_file=compiler.words(entry.prefab_file, _PREFAB_WORDS, f"{at}/prefab_file"),
    )
    _check_ways(compiler, rule.ways, asked, at)
    return rule


def _folded(compiler: LayoutCompiler, kind: str, at: str) -> bool:
    compiler.known_kind(kind, at)
    return kind in compiler.entry.kinds and compiler.entry.kinds[kind].case == "folded"


def _check_prefabs(compiler: LayoutCompiler, entry: PlacedEntry, at: str) -> None:
    if entry.prefab_file != "{value}" and not entry.prefab:
        compiler.complain(f"{at}/prefab_file", "no `prefab` says where the file is named")
    if entry.text and "{prefab}" not in entry.text:
        compiler.complain(f"{at}/text", "it needs {prefab}: what it says of the file that it stands for")
    if (entry.text or entry.record) and not (entry.prefab and entry.seat):
        compiler.complain(at, "a record that stands for a file needs `prefab`, and a `seat` where it is set")
    _check_named(compiler, entry, at)
    if entry.prefab and not any(one.in_prefabs for one in compiler.entry.placed):
        compiler.complain(f"{at}/prefab", "no [[placed]] has `in_prefabs`: nothing would stand there")


def _check_named(compiler: LayoutCompiler, entry: PlacedEntry | VolumeEntry | TrackEntry, at: str) -> None:
    if entry.in_prefabs and not any(one.prefab for one in compiler.entry.placed):
        compiler.complain(f"{at}/in_prefabs", "no [[placed]] says with `prefab` where such files are named")


def _volume(compiler: LayoutCompiler, entry: VolumeEntry, at: str) -> VolumeRule | None:
    asked = _asked(compiler, entry.file, entry.ask, at)
    if asked is None:
        return None
    if mistake := _shape_mistake(entry):
        compiler.complain(at, mistake)
    _check_named(compiler, entry, at)
    flat = not compiler.entry.space.up
    at_, low, high = (_point(one, flat) if one else None for one in (entry.at, entry.low, entry.high))
    turn = _turn(compiler, entry.turn, f"{at}/turn")
    size, half = _size(entry.size), _size(entry.half)
    when = tuple(_conditions(entry.when))
    rule = VolumeRule(entry, asked, at_, size, half, low, high, turn, when)
    _check_ways(compiler, rule.ways, asked, at)
    return rule


def _shape_mistake(entry: VolumeEntry) -> str:
    """What a volume lacks that its shape needs; empty for nothing."""
    lengths = (bool(entry.size), bool(entry.half), bool(entry.low and entry.high))
    if entry.shape == "box" and (sum(lengths) != 1 or (not lengths[2] and not entry.at)):
        return "a box has its middle `at` with `size` or `half`, or two corners, `low` and `high`"
    if entry.shape in ("sphere", "cylinder") and (not entry.at or entry.radius == ""):
        return f"a {entry.shape} has `at` and `radius`"
    if entry.shape == "outline" and not entry.points:
        return "an outline has `points`"
    return ""


def _track(compiler: LayoutCompiler, entry: TrackEntry, at: str) -> TrackRule | None:
    asked = _asked(compiler, entry.file, entry.ask, at)
    if asked is None:
        return None
    _check_named(compiler, entry, at)
    rule = TrackRule(entry, asked, tuple(_conditions(entry.when)))
    _check_ways(compiler, rule.ways, asked, at)
    return rule


def _stand(compiler: LayoutCompiler, entry: StandEntry, at: str) -> StandRule:
    conditions = (entry.inside, entry.outside, entry.near, entry.reach_off, entry.tied)
    if not any(conditions) and entry.clear is None and entry.link_most is None:
        compiler.complain(at, "it asks for nothing: say `inside`, `outside`, `clear`, `near`, `link_most` or `tied`")
    names = sorted(one.name for one in compiler.entry.placed)
    if entry.of and entry.of not in names:
        compiler.complain(f"{at}/of", f"no [[placed]] is called `{entry.of}`{nearest(entry.of, names)}")
    meanings = sorted({one.means for one in compiler.entry.volume} | {one.means for one in compiler.entry.track})
    for word in (entry.inside, *entry.outside, *entry.reach_off):
        if word and word not in meanings:
            compiler.complain(at, f"no [[volume]] and no [[track]] means `{word}`{nearest(word, meanings)}")
    return StandRule(entry)


def _asked(compiler: LayoutCompiler, file: str, ask: Mapping[str, Any], at: str) -> ValueQuery | None:
    asked = compiler.asked(ValueEntry(file=file, ask=dict(ask)), at, with_parts=True)
    if asked is None or asked.selector is None:
        return None
    form = format_named(asked.rule.format)
    if not form.has_parts:
        compiler.complain(f"{at}/file", f"{form.title} says of nothing where it stands")
        return None
    return asked


def _check_ways(compiler: LayoutCompiler, ways: Iterable[str], asked: ValueQuery, at: str) -> None:
    form = format_named(asked.rule.format)
    for way in ways:
        if mistake := form.way_mistake(way):
            compiler.complain(at, mistake)


def _number(said: str) -> NumberWay:
    match = _NTH.fullmatch(said)
    return NumberWay(match["way"], int(match["nth"]) - 1) if match is not None else NumberWay(said)


def _point(said: str | PointEntry, flat: bool = False) -> Point | None:
    if isinstance(said, PointEntry):
        x, y, z = (_number(one) if one else None for one in (said.x, said.y, said.z))
        return (x, y, z)
    if not said:
        return None
    return (NumberWay(said, 0), NumberWay(said, 1), None if flat else NumberWay(said, 2))


def _size(said: str | PointEntry) -> Point | None:
    """One number counts for all axes; whether there is one only, each record says."""
    return _point(said)


def _turn(compiler: LayoutCompiler, entry: TurnEntry | None, at: str) -> TurnRule | None:
    if entry is None:
        return None
    angles = entry.as_ in ("degrees", "radians")
    about = entry.about or (compiler.entry.space.up or "z")
    if angles and (re.fullmatch(r"[xyz]{1,3}|[XYZ]{1,3}", about) is None or _twice(about)):
        compiler.complain(f"{at}/about", f"`{about}` is no row of axes: write `y`, `xyz`, or `ZYX`")
    if not angles and (entry.about or entry.clockwise):
        compiler.complain(at, f"`about` and `clockwise` are of angles; a {entry.as_} has an `order`")
    orders = {"quaternion": ("xyzw", "wxyz"), "matrix": ("rows", "columns")}.get(entry.as_, ())
    if entry.order is not None and entry.order not in orders:
        compiler.complain(f"{at}/order", f"{entry.as_} has no such order; there are {' and '.join(orders) or 'none'}")
    count = len(about) if angles else _NUMBERS[entry.as_]
    if isinstance(entry.from_, str):
        single = angles and count == 1
        numbers = (_number(entry.from_),) if single else tuple(NumberWay(entry.from_, nth) for nth in range(count))
    else:
        numbers = tuple(_number(one) for one in entry.from_)
        if len(numbers) != count:
            compiler.complain(f"{at}/from", f"{count} numbers make this turn, and {len(numbers)} are named")
    return TurnRule(structs.replace(entry, about=about if angles else ""), numbers)


def _twice(about: str) -> bool:
    """Whether one turn follows another about the same axis: the two would be one."""
    return any(one == other for one, other in pairwise(about))


def _conditions(when: Mapping[str, str | bool | tuple[str, ...]]) -> Iterator[PartCondition]:
    for way, said in when.items():
        if isinstance(said, bool):
            yield PartCondition(way, there=said)
        else:
            yield PartCondition(way, frozenset((said,) if isinstance(said, str) else said))
