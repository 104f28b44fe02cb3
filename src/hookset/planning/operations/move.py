"""Things of a map moved, turned, stretched, given to another group."""

from __future__ import annotations

from msgspec import Struct, structs

from hookset.model import WrongUseError
from hookset.planning.choices import Choices
from hookset.planning.placing.moving import Move, moved, rigid
from hookset.planning.placing.positions import PositionWish, positions_for, row_called
from hookset.planning.plan import PackPlan, Plan
from hookset.planning.state import plan_state_for
from hookset.project import Ledger, MapProject
from hookset.scene.scene import Scene
from hookset.scene.values import Wish

__all__ = ["MoveRequest", "plan_move"]


class MoveRequest(Struct, frozen=True, kw_only=True):
    """What is to be moved, and where to."""

    names: tuple[str, ...]
    """The first goes to the position; the others keep their places to it."""
    wish: PositionWish
    group: str | None = None


def plan_move(
    project: MapProject,
    ledger: Ledger,
    ledger_bytes: bytes | None,
    asked: MoveRequest,
    choices: Choices,
    now: str,
) -> Plan:
    """Put things elsewhere: the first of them at the position, the others as they stand to it. Raises WrongUseError."""
    state = plan_state_for(project, ledger, choices, now)
    scene = Scene(project.tree, project.layout)
    wish, group = asked.wish, asked.group
    rows = [row_called(scene, name) for name in asked.names]
    first = scene.things.transform(rows[0])
    nothing = not wish.at and not wish.beside and not wish.by
    if nothing and wish.turn is None and wish.size is None and group is None:
        raise WrongUseError(
            "incomplete-option",
            "it is not said where to",
            remedy="say --at X,Y,Z, --by X,Y,Z, --turn, --size or --group",
        )
    if not wish.at and not wish.beside:
        wish = replace_at(scene, rows[0], wish)
    position = positions_for(scene, wish)[0]
    moves = {}
    for row in rows:
        thing = scene.things.rows[row]
        words = {}
        if group is not None:
            if not thing.rule.entry.group:
                raise WrongUseError(
                    "not-in-layout",
                    f"the layout does not say where {thing.rule.entry.title} have their group",
                    remedy="leave --group out, or add `group` to [[placed]] in the layout",
                )
            words[thing.rule.entry.group] = group
        moves[row] = Move(
            thing.key, rigid(scene, rows[0], row, position) if first is not None else Wish(at=position.at), words
        )
    state, steps = moved(state, scene, moves)
    step = PackPlan(name=", ".join(asked.names), version="", hooks=steps)
    return state.with_plan_of(step).plan(ledger_bytes)


def replace_at(scene: Scene, row: int, wish: PositionWish) -> PositionWish:
    """A wish that says nothing of the place, with the place where a thing stands now."""
    at = tuple(float(one) for one in scene.things.at[row])
    return structs.replace(wish, at=at)
