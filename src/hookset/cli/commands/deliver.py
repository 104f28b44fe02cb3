"""hookset deliver"""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

import click
import msgspec
from platformdirs import user_config_path, user_data_path

from hookset.building.delivery.delivery import Aside, Delivery, deliver, other_copies, put_back, users_of
from hookset.building.delivery.destinations import (
    Destination,
    destination_named,
    read_destinations,
    with_destination,
    without_destination,
    write_destinations,
)
from hookset.building.delivery.record import (
    DeliveredMap,
    Deliveries,
    read_deliveries,
    to_look_for,
    write_deliveries,
)
from hookset.cli.building import built
from hookset.cli.busy import busy
from hookset.cli.run import Run, json_option, pass_run
from hookset.model import WrongUseError
from hookset.project import Ledger, MapProject
from hookset.reports.deliveries import delivery_data, destinations_data
from hookset.reports.text.deliveries import back_text, delivery_text, destinations_text

__all__ = ["command"]


@click.command("deliver", short_help="Build the map, and put it where the game looks.")
@click.argument("names", nargs=-1, metavar="[DESTINATION]...")
@click.option(
    "--to", "folder", type=click.Path(path_type=Path), help="The folder that DESTINATION stands for from now on."
)
@click.option("--back", is_flag=True, help="What lay there before the last delivery lies there again.")
@click.option("--destinations", "shown", is_flag=True, help="Show them, and deliver nothing.")
@click.option("--forget", is_flag=True, help="Forget a destination; what lies there stays.")
@click.option("--watch", is_flag=True, help="Deliver again whenever the map has changed, until Ctrl-C.")
@click.option("--anyway", is_flag=True, help="Deliver although the map has errors.")
@json_option
@pass_run
def command(
    run: Run,
    names: tuple[str, ...],
    folder: Path | None,
    back: bool,
    shown: bool,
    forget: bool,
    watch: bool,
    anyway: bool,
    as_json: bool,
) -> None:
    """Build the map, and put the archive where a game or a server looks for it: whole or not at all, and one copy only.
    What lay there before, and other copies of the same map, are kept aside; --back puts them there again.

    A destination is named once, for all maps of this layout: a name of yours for a folder. Without one the map goes
    to all of them.

    \b
    Examples, in the demo's map:
        hookset deliver game --to ../game/maps
        hookset deliver
        hookset deliver --watch
        hookset deliver --back
    """
    file = user_config_path("hookset", appauthor=False) / "destinations.toml"
    destinations = read_destinations(file)
    if sum((back, shown, forget, folder is not None)) > 1:
        raise WrongUseError(
            "conflicting-options",
            "--to, --back, --destinations and --forget exclude each other",
            remedy="give one of them",
        )
    if watch and (back or shown or forget):
        raise WrongUseError("conflicting-options", "--watch goes with delivering only", remedy="leave --watch out")
    if shown or forget:
        for name in names if forget else ():
            destinations = without_destination(destinations, name)
        if forget:
            write_destinations(file, destinations)
        _show_destinations(run, destinations, as_json)
        return
    project = run.project()
    if folder is not None:
        destinations = _named(destinations, names, folder, project.layout.name)
        write_destinations(file, destinations)
    meant = _meant(destinations, names, project.layout.name)
    if back:
        _back(run, project, meant, as_json)
        return
    if watch:
        _watch(run, project, meant, anyway, as_json)
        return
    _deliver(run, project, meant, anyway, as_json)


def _watch(run: Run, project: MapProject, meant: tuple[Destination, ...], anyway: bool, as_json: bool) -> None:
    """Deliver now, and after each change; what keeps one delivery from being made is told, and the next change tries
    again."""
    # Imported here: nothing else waits for changes.
    from hookset.cli.watching import changes_of, noting_interrupts

    line = ["--map", str(project.root), "deliver", *(one.name for one in meant)]
    line += [*(["--anyway"] if anyway else []), *(["--json"] if as_json else [])]
    with noting_interrupts() as over:
        run.program(line)
        run.tell(f"{project.file.map.name} is watched; Ctrl-C ends it")
        for changed in () if over() else changes_of(project):
            more = f" and {len(changed) - 3} more" if len(changed) > 3 else ""
            run.tell(f"\nchanged: {', '.join(changed[:3])}{more}")
            run.program(line)
            if over():
                break


def _named(
    destinations: tuple[Destination, ...], names: tuple[str, ...], folder: Path, layout: str
) -> tuple[Destination, ...]:
    if len(names) != 1:
        raise WrongUseError(
            "incomplete-option", "--to says what one destination stands for", remedy="hookset deliver NAME --to FOLDER"
        )
    if not folder.is_dir():
        raise WrongUseError(
            "not-found",
            "there is no such folder",
            where=str(folder),
            why="a game that looks there would have made it",
            remedy="check the name, or make the folder",
        )
    return with_destination(destinations, Destination(name=names[0], folder=str(folder.resolve()), layouts=(layout,)))


def _meant(destinations: tuple[Destination, ...], names: tuple[str, ...], layout: str) -> tuple[Destination, ...]:
    if names:
        return tuple(destination_named(destinations, name) for name in dict.fromkeys(names))
    found = tuple(one for one in destinations if layout in one.layouts)
    if not found:
        raise WrongUseError(
            "unknown-destination",
            f"it is not known where a game looks for maps of the layout {layout}",
            remedy="name the folder, once: hookset deliver NAME --to FOLDER",
        )
    return found


def _deliver(run: Run, project: MapProject, destinations: tuple[Destination, ...], anyway: bool, as_json: bool) -> None:
    made = built(run, project, anyway)
    head, archive, ledger = project.file.map, made.archive, made.ledger
    before = read_deliveries(project.root)
    words = made.verdict.case.web.words
    now = datetime.now(UTC)
    done: list[tuple[Destination, Delivery, tuple[str, ...]]] = []
    kept = before
    for target in destinations:
        folder = Path(target.folder)
        others = other_copies(folder, project.layout, words.get("map", ""), archive.name)
        holding = users_of(folder / archive.name)
        with busy(f"delivering to {target.name}"):
            aside = user_data_path("hookset", appauthor=False) / "aside" / target.name / archive.name.partition(".")[0]
            done.append((target, deliver(made.file, folder, others, aside, f"{now:%Y%m%dT%H%M%S}"), holding))
        # After each: if the next one fails, this one can be taken back.
        kept = _kept(before, ledger, done, head.version, f"{now:%Y-%m-%dT%H:%M:%SZ}")
        write_deliveries(project.root, kept)
    run.notes.add(f"delivered {archive.name} to {', '.join(target.folder for target in destinations)}")
    if as_json:
        run.show_json("deliver", True, delivery_data(done, kept))
    else:
        run.print(delivery_text(f"{head.name} {head.version}", done, before, kept))


def _kept(
    before: Deliveries,
    ledger: Ledger,
    done: list[tuple[Destination, Delivery, tuple[str, ...]]],
    version: str,
    when: str,
) -> Deliveries:
    fresh = [
        DeliveredMap(
            destination=target.name,
            target=str(one.target),
            when=when,
            version=version,
            packs={pack.name: pack.version for pack in ledger.packs},
            aside=tuple((str(kept.was), str(kept.kept)) for kept in one.aside),
        )
        for target, one, _ in done
        if not one.same
    ]
    names = {one.destination for one in fresh}
    last = (*(one for one in before.last if one.destination not in names), *fresh)
    return Deliveries(last=last, look_for=to_look_for(ledger, before))


def _back(run: Run, project: MapProject, destinations: tuple[Destination, ...], as_json: bool) -> None:
    before = read_deliveries(project.root)
    names = [target.name for target in destinations]
    meant = [one for one in before.last if one.destination in names]
    if not meant:
        raise WrongUseError(
            "nothing-delivered",
            "nothing was delivered there that could be taken back",
            remedy="only the last delivery of a map to a destination can be taken back, once",
        )
    for one in meant:
        put_back([Aside(Path(was), Path(kept)) for was, kept in one.aside], Path(one.target))
    left = tuple(one for one in before.last if one not in meant)
    write_deliveries(project.root, msgspec.structs.replace(before, last=left))
    if as_json:
        run.show_json(
            "deliver", True, {"back": [{"destination": one.destination, "target": one.target} for one in meant]}
        )
    else:
        run.print(back_text(meant))


def _show_destinations(run: Run, destinations: tuple[Destination, ...], as_json: bool) -> None:
    if as_json:
        run.show_json("deliver", True, {"destinations": destinations_data(destinations)})
    else:
        run.print(destinations_text(destinations))
