"""The steps of the demo: what is said, and what is run."""

from __future__ import annotations

from msgspec import Struct

__all__ = ["FAULT", "Fault", "Step", "steps"]


class Fault(Struct, frozen=True):
    """A slip of the builder's own, planted for the check to find."""

    path: str
    right: str
    wrong: str


FAULT = Fault("sounds/aliases.toml", 'file = "harbour/gull_3.wav"', 'file = "harbour/gul_3.wav"')


class Step(Struct, frozen=True):
    """One step. Commands run in the map's folder."""

    words: str
    command: tuple[str, ...] = ()
    """Empty: the fault is mended by hand here."""
    expect: int = 0
    """The exit code that belongs to it."""


def steps() -> tuple[Step, ...]:
    """From a map that nobody has told the tool about to one that is checked, built and tried."""
    bridge, bell = "../packs/lift-bridge.zip", "../published/fog_bell_v0.4.zip"
    herons, silt = "../published/Heronry 1.0.zip", "../published/silt-0.9-final.zip"
    shore, basin = ("--map", "../maps/shore"), ("--map", "../maps/basin")
    return (
        Step("Tell Hook Set about the map. It finds out how the map is arranged.", ("start",)),
        Step("Check every reference. The builder made a slip in a file name some days ago.", ("check",), 1),
        Step("A map with a reference missing is not built.", ("build",), 1),
        Step("Mend the slip: one letter in the table of sound aliases."),
        Step("Check again.", ("check",)),
        Step("A lift bridge was downloaded. Look into it before anything is touched.", ("inspect", bridge)),
        Step(
            "What would it do to this map? Every file, every line, and what a check would say then.",
            ("install", bridge, "--preview"),
        ),
        Step("Set it in. All of it or nothing.", ("install", bridge)),
        Step(
            "Bell buoys were downloaded, too: a zip with a read-me, and nothing in it that a program could read.",
            ("inspect", bell, "--notes"),
        ),
        Step(
            "What do these notes come to? Every file and every entry, with the line that it is from.", ("draft", bell)
        ),
        Step("The sheet lies beside the zip now. It is as it should be: set it in.", ("install", bell)),
        Step(
            "The bridge would do better further west. Move it; its lever keeps its place beside it.",
            ("move", "bridge_span", "bridge_lever", "--at", "-14,1.5,-4"),
        ),
        Step(
            "Two more lamps on the quay, each with a name of its own.",
            ("place", "lamp_8", "--at", "27,1,14", "--line-to", "36,1,14", "--count", "2"),
        ),
        Step("Where is what the bridge has brought, and what is near it?", ("where", "--pack", "lift-bridge")),
        Step("Draw the map: what stands where, and what works on what.", ("draw", "../brackwater.png")),
        Step("Which packs are installed now, and whom to thank?", ("list",)),
        Step("Check the whole of it.", ("check",)),
        Step("Build.", ("build",)),
        Step("Build once more: nothing has changed, and nothing is packed.", ("build",)),
        Step(
            "Load the built map in the stand-in game: the scripts run, the lever is pulled, the bridge moves.",
            ("trial",),
        ),
        Step("Two more maps of the town, each arranged in another way.", (*shore, "start")),
        Step(
            "Herons for the shore, from zip and notes alone. They are `shy`, which this map has no word for.",
            (*shore, "install", herons, "--as-drafted", "--word", "rank:shy=wild"),
        ),
        Step("The basin.", (*basin, "start")),
        Step(
            "Silt, by notes that name ids of its author's own map: each map has its own, and they are looked up.",
            (*basin, "install", silt, "--as-drafted"),
        ),
        Step("Is every reference met there?", (*basin, "check")),
    )
