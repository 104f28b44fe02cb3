"""Learned from maps whose things have folders of their own: what they are called, what lies with them, and what is new."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hookset.config.layouts.load import load_layout
from hookset.learning import Learned, learned
from hookset.learning.material import material_of
from hookset.learning.starred import starred_globs
from hookset.project import Stock
from hookset.symbols import analyse
from hookset.trees import FolderTree, Glob
from tests.core.test_learning import rules, written

LOT = random.Random(11)
CREWS = ("eider", "heron", "plover")
BOATS = ("barge", "cutter", "dinghy", "ketch", "lugger", "punt", "skiff", "tender")
MARK = "$SHARED"


def boat(crew: str, name: str, mark: str) -> str:
    needs = "".join(f'    <boat name="{one}"/>\n' for one in LOT.sample(BOATS, 3))
    sounds = "".join(f'    <sound path="{mark}/sounds/{one}_bell.wav"/>\n' for one in LOT.sample(BOATS, 2))
    return (
        f'<boat-file>\n  <look path="looks/{name}.png"/>\n  <needs>\n{needs}  </needs>\n  <sounds>\n{sounds}'
        f'    <sound path="noises/{name}_oar.wav"/>\n  </sounds>\n  <crew name="{crew}"/>\n</boat-file>\n'
    )


def fleet(root: Path, mark: str = MARK, pages: bool = False) -> FolderTree:
    """Boats of three crews, each in a folder of its own; sounds that all share, by a word for their folder."""
    files = {f"fleet/shared/sounds/{name}_bell.wav": "RIFF" for name in BOATS}
    for crew in CREWS:
        files[f"fleet/crews/{crew}/{crew}.xml"] = (
            "<crew-file>\n" + "".join(f'  <starts-with boat="{one}"/>\n' for one in BOATS[:4]) + "</crew-file>\n"
        )
        for name in BOATS:
            place = f"fleet/crews/{crew}/boats/{name}"
            files |= {
                f"{place}/{name}.xml": boat(crew, name, mark),
                f"{place}/wake.xml": f'<wake>\n  <picture path="looks/{name}.png"/>\n</wake>\n',
                f"{place}/looks/{name}.png": "x",
                f"{place}/noises/{name}_oar.wav": "RIFF",
            }
    if pages:
        files |= {f"docs/{name}.html": f"<h1>{name}</h1><p>See <a href='{name}.html'>it</a>.</p>" for name in BOATS}
    return written(root, files)


@pytest.fixture
def found(tmp_path: Path) -> Learned:
    return learned(fleet(tmp_path / "map"), "fleet")


def test_things_are_called_like_their_folders(found: Learned) -> None:
    kinds = {kind.name: {name for one in kind.vocabularies for name in one.names} for kind in found.kinds}
    assert kinds["boat"] == set(BOATS)
    assert kinds["crew"] == set(CREWS)
    told = rules(found)
    assert told["at=//boat/@name"] == ("boat", "sure")
    assert told["at=//starts-with/@boat"][0] == "boat"
    assert told["at=//crew/@name"][0] == "crew"


def test_a_word_for_a_folder_and_paths_beside_it_are_two_rules(found: Learned) -> None:
    ways = {
        (dict(guess.place.asked).get("only", ""), guess.files.under, guess.files.beside)
        for guess in found.guesses
        if guess.files is not None and guess.place.asked["at"] == "//sound/@path"
    }
    assert (r"^\$SHARED/(?P<value>.+)$", ("fleet/shared",), False) in ways
    assert any(beside for _, _, beside in ways)


@pytest.mark.parametrize("mark", ["$SHARED", "${SHARED}", "%SHARED%", "@shared", "{shared}", "game:/"])
def test_words_for_folders_of_any_form(mark: str, tmp_path: Path) -> None:
    found = learned(fleet(tmp_path / "map", mark), "fleet")
    assert any(guess.place.asked.get("only") for guess in found.guesses if guess.files is not None)


def read_by(found: Learned, tree: FolderTree) -> list[tuple[str, str]]:
    """What is missing in a map, by a learned layout."""
    analysis = analyse(tree, load_layout(found.text.encode(), "learned.toml"), Stock())
    return sorted((one.reference.path, one.reference.name) for one in analysis.resolutions.missing)


def test_the_layout_reads_the_map_without_a_fault(found: Learned, tmp_path: Path) -> None:
    assert read_by(found, FolderTree(tmp_path / "map")) == []


def test_it_reads_a_crew_that_came_later_as_well(found: Learned, tmp_path: Path) -> None:
    place = tmp_path / "map/fleet/crews/godwit/boats/scow"
    text = boat("godwit", "scow", MARK).replace(f"{MARK}/sounds/", f"{MARK}/sounds/no_")
    for path, said in {"scow.xml": text, "looks/scow.png": "x", "noises/scow_oar.wav": "RIFF"}.items():
        (place / path).parent.mkdir(parents=True, exist_ok=True)
        (place / path).write_text(said)
    missing = read_by(found, FolderTree(tmp_path / "map"))
    assert {path for path, _ in missing} == {"fleet/crews/godwit/boats/scow/scow.xml"}
    names = {name for _, name in missing}
    assert "godwit" in names
    assert sum(name.startswith("fleet/shared/sounds/no_") for name in names) == 2


def test_pages_for_people_teach_nothing(tmp_path: Path) -> None:
    tree = fleet(tmp_path / "map", pages=True)
    material = material_of(tree)
    assert [(one.ending, one.files) for one in material.unread] == [(".html", len(BOATS))]
    assert not any(path.endswith(".html") for sort in material.sorts for path in sort.paths)


def test_patterns_mean_folders_that_are_not_there_yet() -> None:
    mine = [f"crews/{crew}/boats/{name}/{name}.xml" for crew in CREWS for name in BOATS]
    others = [f"crews/{crew}/boats/{name}/wake.xml" for crew in CREWS for name in BOATS]
    assert starred_globs(mine, others) == ("crews/*/boats/{thing}/{thing}.xml",)
    assert starred_globs(mine, [*others, "crews/eider/boats/eider.xml"]) == ("crews/*/boats/{thing}/{thing}.xml",)
    assert starred_globs(others, mine) == ("crews/*/boats/*/wake.xml",)


FOLDER = st.sampled_from(("a", "b", "c"))
PATHS = st.sets(
    st.builds(lambda steps, stem: "/".join((*steps, f"{stem}.x")), st.lists(FOLDER, min_size=1, max_size=4), FOLDER),
    min_size=1,
    max_size=20,
)


@given(PATHS, st.data())
def test_starred_patterns_mean_the_files_and_no_others(paths: set[str], data: st.DataObject) -> None:
    mine = data.draw(st.sets(st.sampled_from(sorted(paths)), min_size=1))
    globs = starred_globs(sorted(mine), sorted(paths - mine))
    found = [Glob(one) for one in globs]
    assert not globs or {path for path in paths if any(glob.matches(path) for glob in found)} == mine


def crane(number: int, also: str = "") -> str:
    deeds = LOT.sample(["lift", "turn", "lower", "stop", "sway", "creak"], 4)
    steps = "".join(
        f'  <deed>\n    <name value="{one}_deed"/>\n    <speed value="{number}"/>\n  </deed>\n' for one in deeds
    )
    asked = "".join(f'    <{when}-deed value="{LOT.choice(deeds)}_deed"/>\n' for when in ("first", "next", "last"))
    does = f"  <order>\n{asked}  </order>\n" * 3
    return f"<crane>\n{steps}{does}{also}</crane>\n"


def test_names_of_a_file_are_meant_by_that_file_only(tmp_path: Path) -> None:
    files = {f"cranes/crane_{number}.xml": crane(number) for number in range(12)}
    tree = written(tmp_path / "map", files)
    found = learned(tree, "cranes")
    (rule,) = [guess for guess in found.guesses if guess.place.asked["at"] == "//first-deed/@value"]
    assert rule.band == "sure" and rule.targets[0].own
    assert [kind.name for kind in found.kinds] == ["deed"]
    assert read_by(found, tree) == []
    path = tmp_path / "map/cranes/crane_12.xml"
    path.write_text('<crane>\n  <order>\n    <first-deed value="lift_deed"/>\n  </order>\n</crane>\n')
    assert read_by(found, FolderTree(tmp_path / "map")) == [("cranes/crane_12.xml", "cranes/crane_12.xml:lift_deed")]


def test_names_that_several_files_share_are_not_their_own(tmp_path: Path) -> None:
    """Whatever each file names once, and what another defines, is that one's."""
    found = learned(fleet(tmp_path / "map"), "fleet")
    assert not any(one.own for kind in found.kinds for one in kind.vocabularies)


def test_two_games_in_one_map_have_the_same_words(tmp_path: Path) -> None:
    woods = ("alder", "birch", "cedar", "elm", "oak")
    files = {
        f"games/{game}.xml": "<game>\n" + "".join(f'  <wood name="{one}_wood"/>\n' for one in woods) + "</game>\n"
        for game in ("north", "south")
    }
    files |= {
        f"boats/boat_{number}.xml": f'<boat>\n  <made-of value="{LOT.choice(woods)}_wood"/>\n</boat>\n'
        for number in range(40)
    }
    told = rules(learned(written(tmp_path / "map", files), "games"))
    assert told["at=//made-of/@value"] == ("wood", "sure")


def test_what_names_things_of_other_files_does_not_mean_its_own(tmp_path: Path) -> None:
    deeds = [f"{one}_deed" for one in ("lift", "turn", "lower", "stop", "sway", "creak", "drop", "hold")]
    files = {}
    for number in range(20):
        mine = LOT.sample(deeds, 4)
        named = "".join(f'  <deed>\n    <name value="{one}"/>\n  </deed>\n' for one in mine)
        asked = "".join(f'  <first-deed value="{LOT.choice(deeds)}"/>\n' for _ in range(3))
        files[f"cranes/crane_{number}.xml"] = f"<crane>\n{named}{asked}</crane>\n"
    found = learned(written(tmp_path / "map", files), "cranes")
    assert not [guess for guess in found.guesses if guess.band == "sure"]


BELLS = [(f"thing_{number}", f"{MARK}/sounds/bell_{number}.wav") for number in range(8)]
OARS = [(f"thing_{number + 20}", f"own/oar_{number}.wav") for number in range(8)]
WRITTEN = {
    "a.json": '{"things": [\n' + ",\n".join(f'{{"id": "{k}", "noise": "{v}"}}' for k, v in BELLS + OARS) + "\n]}\n",
    "a.toml": "".join(f'[[thing]]\nid = "{k}"\nnoise = "{v}"\n' for k, v in BELLS + OARS),
    "a.yaml": "things:\n" + "".join(f'  - id: {k}\n    noise: "{v}"\n' for k, v in BELLS + OARS),
    "a.ini": "".join(f"[{k}]\nnoise = {v}\nloud = 3\n" for k, v in BELLS + OARS),
    "a.thing": "".join(f'thing "{k}" {{\n  noise "{v}"\n}}\n' for k, v in BELLS + OARS),
    "a.xml": "<all>\n" + "".join(f'<thing id="{k}" noise="{v}"/>\n' for k, v in BELLS + OARS) + "</all>\n",
}


@pytest.mark.parametrize("name", WRITTEN)
def test_words_for_folders_in_each_format_are_read_by_the_learned_layout(name: str, tmp_path: Path) -> None:
    files = {f"data/shared/sounds/bell_{number}.wav": "RIFF" for number in range(8)}
    files |= {f"own/oar_{number}.wav": "RIFF" for number in range(8)} | {name: WRITTEN[name]}
    tree = written(tmp_path / "map", files)
    found = learned(tree, "map")
    analysis = analyse(tree, load_layout(found.text.encode(), "learned.toml"), Stock())
    assert read_by(found, tree) == []
    assert sum(len(block.names) for file in analysis.web.files for block in file.referred) == 16
