"""What of a pack the builder puts somewhere: where that was said to be, and what is still to be placed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from hookset.config.sheets import nearest
from hookset.model import WrongUseError
from hookset.packs import SheetedPack
from hookset.packs.hooksheet import PlaceEntry
from hookset.planning.choices import Answers, Question
from hookset.planning.pipeline.copying import with_copies
from hookset.planning.placing.moving import Move, moved, owner_of, refused, rigid
from hookset.planning.placing.positions import Position, PositionWish, positions_for
from hookset.planning.plan import HookStep
from hookset.planning.state import PlanState
from hookset.project import LedgerHook, LedgerPack, LedgerPlace
from hookset.scene.records import open_for_edits
from hookset.scene.scene import Scene
from hookset.scene.values import CannotSay

__all__ = ["ledger_places", "open_places", "place_questions", "with_places"]


def open_places(pack: SheetedPack, answers: Answers, earlier: LedgerPack | None) -> frozenset[str]:
    """The places of which only the builder knows where they are, and has not said so. Raises WrongUseError for an
    answer about a place that there is not."""
    names = [place.name for place in pack.sheet.place]
    for name in answers.placed:
        if name not in names:
            raise WrongUseError(
                "unknown-name",
                f"{pack.name} has no place `{name}`{nearest(name, names)}",
                why="nothing of it stands where you say",
                remedy=f"its places are {', '.join(names)}" if names else "`hookset move` moves what stands in the map",
            )
    standing = {hook.place for hook in earlier.hooks} if earlier is not None else set()
    return frozenset(
        place.name
        for place in pack.sheet.place
        if place.must and place.name not in answers.placed and standing.isdisjoint((place.name, *place.was))
    )


def place_questions(pack: SheetedPack, open_now: frozenset[str]) -> Iterator[Question]:
    """What is asked at a terminal about places that are open."""
    for place in pack.sheet.place:
        if place.name in open_now:
            axes = "X,Y" if place.on_ground else "X,Y,Z"
            yield Question(
                key=("place", pack.name, place.name),
                text=f"Where does `{place.name}` go? {place.says}".strip() + f" ({axes}; @DEGREES behind it turns it)",
            )


def ledger_places(pack: SheetedPack) -> tuple[LedgerPlace, ...]:
    """What the ledger keeps of a pack's places."""
    return tuple(
        LedgerPlace(
            name=place.name,
            says=place.says,
            each=sum(hook.place == place.name for hook in pack.sheet.hook),
            least=place.least or int(place.must),
        )
        for place in pack.sheet.place
    )


def with_places(state: PlanState, pack: SheetedPack, answers: Answers) -> tuple[PlanState, tuple[HookStep, ...]]:
    """The plan with a pack's things where the builder said: the first of each place moved there, a copy at each further
    one. Raises WrongUseError for what is no place."""
    steps: list[HookStep] = []
    for place in pack.sheet.place:
        said = answers.placed.get(place.name)
        if said and not state.stops:
            state, more = _at_places(state, pack, place, said)
            steps += more
    return state, tuple(steps)


def _at_places(
    state: PlanState, pack: SheetedPack, place: PlaceEntry, said: str
) -> tuple[PlanState, Sequence[HookStep]]:
    scene = Scene(state.tree, state.layout)
    positions = [_position(scene, place, one) for one in said.split()]
    rows = list(_rows(state, scene, pack, place))
    if not rows:
        thing = f"`{place.name}` of {pack.name}"
        raise WrongUseError(
            "not-in-layout",
            f"{thing} is nothing that the layout knows to stand somewhere",
            why="it cannot be put where you say",
            remedy="[[placed]] in the layout says what stands somewhere, and how that is written",
        )
    first = scene.things.rows[rows[0]]
    steps: tuple[HookStep, ...] = ()
    try:
        # Copies first: they stand as the author has it, whatever becomes of the first one.
        free = [one for one in positions[1:] if not _stands_there(scene, rows[0], one)]
        if free:
            state, plans = with_copies(state, scene, rows, free, [first.called])
            steps = tuple(step for plan in plans for step in plan.hooks)
        scene = Scene(state.tree, state.layout)
        rows = list(_rows(state, scene, pack, place))
        moves = {row: Move(scene.things.rows[row].key, rigid(scene, rows[0], row, positions[0])) for row in rows}
        state, more = moved(state, scene, moves)
    except CannotSay as error:
        return state.with_stops([refused(first, error)]), ()
    return state, (*steps, *more)


def _stands_there(scene: Scene, row: int, position: Position) -> bool:
    """Whether something of the same sort stands at a position: what was placed before is not placed again."""
    things = scene.things
    like = things.rows[row]
    return any(
        one.sort == like.sort and one.rule is like.rule and bool(abs(things.at[one.index] - position.at).max() < 1e-4)
        for one in things.rows
    )


def _position(scene: Scene, place: PlaceEntry, said: str) -> Position:
    """Raises WrongUseError for what is no place."""
    at, _, turn = said.partition("@")
    numbers, degrees = _numbers(place, at), _numbers(place, turn) if turn else None
    flat = place.on_ground and len(numbers) == 2 and scene.up is not None
    return positions_for(scene, PositionWish(at=numbers, turn=degrees, on_ground=flat))[0]


def _numbers(place: PlaceEntry, said: str) -> tuple[float, ...]:
    try:
        numbers = tuple(float(one) for one in said.split(","))
    except ValueError:
        numbers = ()
    if not numbers or not all(abs(one) < float("inf") for one in numbers):
        raise WrongUseError(
            "wrong-place",
            f"{place.name}: `{said}` is no place",
            remedy=f"write --at {place.name}=X,Y,Z, with @DEGREES behind it where it is turned",
        )
    return numbers


def _rows(state: PlanState, scene: Scene, pack: SheetedPack, place: PlaceEntry) -> Iterator[int]:
    """The things that a pack's own entries of a place are, in the order of its sheet; without copies."""
    own = state.ledger.pack(pack.name)
    hooks = [hook for hook in own.hooks if hook.place == place.name and hook.of_sheet] if own is not None else []
    by_order: dict[int, int] = {}
    for path in dict.fromkeys(hook.path for hook in hooks):
        for thing in (thing for thing in scene.things.rows if thing.path == path):
            if any(_says(hook, thing.key or thing.class_) for hook in hooks):
                owner = owner_of(state, open_for_edits(state.tree, thing.rule, path), thing)
                if owner is not None and owner[0] == pack.name:
                    by_order[owner[1].order] = thing.index
    yield from (by_order[hook.order] for hook in hooks if hook.order in by_order)


def _says(hook: LedgerHook, word: str) -> bool:
    return bool(word) and any(word in edit.new for edit in hook.edits)
