"""Learned from texts for people that stand below their keys, in a file for each language."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.headed import headed_by
from hookset.learning.material import material_of
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(50)
BOATS = [f"BOAT_{what}_{how}" for what in ("PUNT", "SKIFF", "YAWL", "RAFT") for how in ("GREY", "LOW", "OLD", "REED")]
NIGHTS = [f"NIGHT_{what}_LABEL" for what in ("FOG", "TIDE", "BELL", "LAMP", "HAUL", "WADE")]
WORDS = ("the", "tide", "goes", "out", "and", "you", "can", "see", "how", "many", "wait", "below", "with", "a", "lamp")


def prose(words: int) -> str:
    return " ".join(LOT.choices(WORDS, k=words))


def texts(keys: list[str], end: str = "\n") -> str:
    """Some of one line, some of several, as a translator writes them."""
    told = "".join(
        f"{key}\n{prose(9)}.\n{prose(12)}.\n\n" if at % 3 else f"{key}\n{prose(2)}\n\n" for at, key in enumerate(keys)
    )
    return f"Language\n\n# Keep the keys.\n\n{told}".replace("\n", end)


def boat(name: str) -> str:
    return (
        f'Boat\n\tname = "{name}"\n\tdescription = "{name}_DESC"\n\ttows = "{LOT.choice(BOATS)}"\n'
        f'\tlabel = "{LOT.choice(NIGHTS)}"\n\tif = HasBoat name = "{LOT.choice(BOATS)}"\n'
    )


KEYS = [*BOATS, *(f"{one}_DESC" for one in BOATS), *NIGHTS]


@pytest.fixture
def fleet(tmp_path: Path) -> FolderTree:
    """Boats in a language of their own, with texts in three languages; little is translated into one of them."""
    LOT.seed(50)
    return written(
        tmp_path / "map",
        {
            **{f"boats/fleet{at}.boat": "\n".join(map(boat, BOATS[at::4])) for at in range(4)},
            "words/en.txt": texts(KEYS),
            "words/cz.txt": texts(KEYS, "\r\n"),
            "words/de.txt": texts(KEYS[::4]),
            "notes/about.txt": "".join(f"{prose(LOT.randrange(8, 20))}.\n" for _ in range(40)),
        },
    )


def by_key(tree: FolderTree) -> dict[str, tuple[str, str]]:
    return {key.replace("\\", ""): one for key, one in rules(learned(tree, "fleet")).items()}


def test_texts_are_told_from_things_that_are_called_as_they_are(fleet: FolderTree) -> None:
    found = by_key(fleet)
    kinds = {
        word: one
        for word in ("description", "label", "tows", "HasBoat")
        for key, one in found.items()
        if key.startswith(f"match=b{word}")
    }
    assert {band for _, band in kinds.values()} == {"sure"}
    assert kinds["description"] == kinds["label"] != kinds["tows"] == kinds["HasBoat"]


def test_what_is_for_people_only_is_not_read(fleet: FolderTree) -> None:
    read = {path for sort in material_of(fleet).sorts for path in sort.documents}
    assert {"words/en.txt", "words/cz.txt", "words/de.txt"} <= read
    assert "notes/about.txt" not in read


def test_a_text_that_no_language_has_is_told(fleet: FolderTree, tmp_path: Path) -> None:
    path = tmp_path / "map/boats/fleet1.boat"
    path.write_text(path.read_text().replace(f'"{BOATS[1]}_DESC"', '"BOAT_GONE_DESC"'))
    layout = load_layout(learned(fleet, "fleet").text.encode(), "fleet.toml")
    told = [one for one in judge(fleet, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert [(one.name, one.spot.path) for one in told] == [("BOAT_GONE_DESC", "boats/fleet1.boat")]


def test_each_language_has_to_have_what_is_translated_by_and_large(fleet: FolderTree, tmp_path: Path) -> None:
    (tmp_path / "map/words/de.txt").write_text(texts([one for one in KEYS if one != f"{BOATS[2]}_DESC"]))
    layout = load_layout(learned(fleet, "fleet").text.encode(), "fleet.toml")
    told = [one for one in judge(fleet, layout, Stock(), Ledger()).findings if one.code.startswith("missing")]
    assert {one.name for one in told} == {f"{BOATS[2]}_DESC"}


def test_texts_are_no_further_names_of_things(fleet: FolderTree, tmp_path: Path) -> None:
    rafts = [f"RAFT_OF_{what}" for what in ("LOGS", "REED", "CORK", "OAK", "TAR", "PINE", "ROPE", "CANE")]
    made = "".join(f'Raft\n\tname = "{one}"\n\tdepth = "2"\n' for one in rafts)
    seen = "".join(f'\tseen = "{one}"\n' for one in (*rafts * 2, *NIGHTS * 2))
    (tmp_path / "map/boats/rafts.boat").write_text(f"{made}Log\n{seen}", encoding="utf-8")
    layout = learned(fleet, "fleet")
    kinds = {key: kind for key, (kind, _) in by_key(fleet).items()}
    (texts_called,) = {kind for key, kind in kinds.items() if "bdescription" in key}
    assert not any(f'kind = "{texts_called}"' in line and "Raft" in line for line in layout.text.splitlines())


DOTTED = [f"boat.{what}.{how}" for what in ("punt", "skiff") for how in "abcdefghijkl"]


@pytest.mark.parametrize(
    ("text", "keyed"),
    [
        (texts(KEYS), True),
        (texts(KEYS, "\r\n"), True),
        (texts(DOTTED), True),
        ("".join(f"[{prose(4)} {at}]\n{prose(6)}\n" for at in range(30)), True),
        ("".join(f"[{one}]\ndepth = 3\nmark = {prose(3)}\n" for one in KEYS), False),
        ("".join(f"[{one}]\n{LOT.choice(WORDS)}\n{LOT.choice(WORDS)}\n" for one in KEYS), False),
        ("".join(f"{one}\n" for one in KEYS), False),
        ("".join(f"{one}\n'''4.5 * x'''\n\n" for one in KEYS), False),
        (texts(KEYS[:8]), False),
        (texts(KEYS * 3), False),
        ("\n".join(f"{one.title()}\n{prose(9)}." for one in WORDS * 3), False),
        (f"{prose(12)}.\n" * 3000 + texts(KEYS), False),
        ("", False),
    ],
    ids=[
        "plain",
        "windows",
        "dotted",
        "in brackets",
        "sections",
        "lists in sections",
        "a list",
        "macros",
        "few",
        "again and again",
        "words",
        "a book",
        "empty",
    ],
)
def test_keys_above_texts(text: str, keyed: bool) -> None:
    assert bool(headed_by(text)) == keyed
