"""Rules learned from a map: those that are there, none that are not, and never more than was looked at."""

from __future__ import annotations

import random
from collections.abc import Mapping
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom

from hookset.config.layouts.load import load_layout
from hookset.learning import Learned, learned, previewed
from hookset.learning.evidence import shape_of, tail
from hookset.learning.filed import Files
from hookset.learning.globs import globs_for
from hookset.learning.material import material_of
from hookset.project import Stock
from hookset.symbols import analyse
from hookset.trees import FolderTree, Glob

LOT = random.Random(5)
TREES = [f"{wood}_{part}" for wood in ("alder", "birch", "cedar", "elm") for part in ("trunk", "crown", "root")]
SOUNDS = [f"{who}_{what}" for who in ("gull", "heron", "winch") for what in ("call", "land", "stop", "turn")]


def written(root: Path, files: Mapping[str, str]) -> FolderTree:
    for path, text in files.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text, encoding="utf-8")
    return FolderTree(root)


def rules(found: Learned) -> dict[str, tuple[str, str]]:
    """(kind, band) by what the format is asked with."""
    kinds = {one: kind.name for kind in found.kinds for one in kind.vocabularies}
    return {
        " ".join(f"{key}={value}" for key, value in guess.place.asked.items()): (
            kinds[guess.targets[0]] if guess.targets else "file",
            guess.evidence.band,
        )
        for guess in found.guesses
    }


@pytest.fixture
def harbour(tmp_path: Path) -> FolderTree:
    """Things in XML that name models and sounds; a table of sounds; scripts; one reference is broken."""
    things = "\n".join(
        f'  <Thing id="thing_{number}" form="{LOT.choice(TREES)}" noise="{LOT.choice(SOUNDS)}" tall="{LOT.randrange(9)}"/>'
        for number in range(60)
    )
    table = "alias\tfile\tloud\n" + "".join(f"{one}\t{one}.wav\t{LOT.randrange(90)}\n" for one in SOUNDS)
    calls = "".join(f'play("{LOT.choice(SOUNDS)}", {LOT.randrange(9)})\nmove("thing_{n}")\n' for n in range(30))
    forms = "".join(
        f"form {one} {{\n  height {LOT.randrange(40)}\n  skin bark_{n % 3}\n}}\n" for n, one in enumerate(TREES)
    )
    skins = "".join(f"skin bark_{number} {{\n  rough {number}\n}}\n" for number in range(3))
    files = {
        "scene/quay.xml": f'<Quay>\n{things}\n  <Thing id="last" form="alder_twig" noise="gull_call"/>\n</Quay>\n',
        "sounds/table.tab": table,
        "scripts/main.lua": f"function start()\nend\n{calls}",
        "forms/trees.form": forms + skins,
        "notes.txt": "This is what the author says of it, and of what you should do with the files that are in there.\n"
        * 9,
    }
    files |= {f"sounds/wav/{one}.wav": "RIFF" for one in SOUNDS}
    return written(tmp_path / "quay", files)


def test_what_names_what_is_found(harbour: FolderTree) -> None:
    found = learned(harbour, "quay")
    told = rules(found)
    assert told["at=//Thing/@form"][1] == "sure"
    assert told["at=//Thing/@noise"][1] == "sure"
    assert told["call=play"] == (told["at=//Thing/@noise"][0], "sure")
    assert told["call=move"][1] == "sure"
    assert told["column=file"] == ("file", "sure")
    assert "at=//Thing/@tall" not in told
    assert not any("loud" in one or "height" in one or "rough" in one for one in told)


def test_what_does_not_fit_is_told_where_it_stands(harbour: FolderTree) -> None:
    found = learned(harbour, "quay")
    form = next(guess for guess in found.guesses if guess.place.asked == {"at": "//Thing/@form"})
    assert [(one.path, one.text) for one in form.evidence.misfits] == [("scene/quay.xml", "alder_twig")]
    assert (form.evidence.hits, form.evidence.texts) == (60, 61)


def test_the_layout_runs_and_sees_what_was_counted(harbour: FolderTree) -> None:
    found = learned(harbour, "quay")
    analysis = analyse(harbour, load_layout(found.text.encode(), "quay.toml"), Stock())
    seen = sum(len(block.names) for file in analysis.web.files for block in file.referred)
    assert seen == sum(guess.evidence.texts for guess in found.guesses)
    assert len(analysis.resolutions.missing) == sum(len(guess.evidence.misfits) for guess in found.guesses)


def test_the_map_is_read_by_it_without_parsing_its_files_again(harbour: FolderTree) -> None:
    found = learned(harbour, "quay")
    layout = load_layout(found.text.encode(), "quay.toml")
    expected = analyse(harbour, layout, Stock())
    for sort in found.material.sorts:
        for path in sort.paths:
            (harbour.root / path).write_bytes(b"")
    analysis = previewed(found.material, layout, Stock())
    assert analysis.web.files == expected.web.files
    assert analysis.resolutions.missing == expected.resolutions.missing


def test_numbers_that_meet_by_accident_are_no_rule(tmp_path: Path) -> None:
    rows = "".join(f"{number}\t{LOT.randrange(200)}\t{LOT.randrange(200)}\n" for number in range(200))
    tree = written(tmp_path / "x", {"ids.tab": f"id\tcost\tweight\n{rows}"})
    assert learned(tree, "x").guesses == ()


def test_numbers_are_ids_only_where_they_are_called_so(tmp_path: Path) -> None:
    ids = sorted(LOT.sample(range(1, 400), 150))
    items = "".join(f'<item id="{one}"/>' for one in ids)
    uses = "".join(f'<need item="{LOT.choice(ids)}"/><spot far="{LOT.choice(ids)}"/>' for _ in range(120))
    marks = "".join(f'<mark n="{LOT.randrange(90_000)}"/>' for _ in range(500))
    found = learned(written(tmp_path / "x", {"items.xml": f"<Items>{items}{uses}{marks}</Items>"}), "x")
    assert set(rules(found)) == {"at=//need/@item"}


def test_names_of_the_base_game_are_known_with_it(tmp_path: Path) -> None:
    uses = "".join(f'<Use model="{LOT.choice(TREES)}"/>' for _ in range(40))
    tree = written(tmp_path / "map", {"scene.xml": f"<Scene>{uses}</Scene>"})
    base = written(
        tmp_path / "base", {"models.xml": "<Models>" + "".join(f'<Model name="{one}"/>' for one in TREES) + "</Models>"}
    )
    assert learned(tree, "map").guesses == ()
    told = rules(learned(tree, "map", [base]))
    assert told == {"at=//Use/@model": ("model", "sure")}


def test_texts_by_language_are_one_kind(tmp_path: Path) -> None:
    keys = [f"menu.{one}" for one in SOUNDS]
    texts = {
        f"texts/{code}.json": "{" + ", ".join(f'"{key}": "{code} {n}"' for n, key in enumerate(keys)) + "}"
        for code in ("en", "de")
    }
    calls = "".join(f'show("{key}")\n' for key in keys)
    found = learned(written(tmp_path / "x", {**texts, "main.lua": calls}), "x")
    assert rules(found) == {"call=show": ("text", "sure")}
    layout = load_layout(found.text.encode(), "x.toml")
    assert layout.kinds["text"].entry.each == "language"
    assert "texts/{variant}.json" in found.text


def test_lists_in_one_text_are_taken_apart(tmp_path: Path) -> None:
    rows = "".join(f"{one}\t{','.join(LOT.sample(SOUNDS, 3))}\n" for one in TREES)
    sounds = "".join(f"{one}\t{n}\n" for n, one in enumerate(SOUNDS))
    tree = written(tmp_path / "x", {"trees.tab": f"tree\tnoises\n{rows}", "sounds.tsv": f"alias\tnth\n{sounds}"})
    (guess,) = learned(tree, "x").guesses
    assert (guess.place.asked, guess.split) == ({"column": "noises"}, ",")
    assert "split" in learned(tree, "x").text


def test_files_among_other_things_in_one_text_are_found(tmp_path: Path) -> None:
    rows = "".join(f"{one}\tsounds/{one}.wav,{LOT.randrange(9)},{LOT.randrange(9)}\n" for one in SOUNDS)
    files = {f"sounds/{one}.wav": "RIFF" for one in SOUNDS[1:]}
    found = learned(written(tmp_path / "x", {"things.tab": f"thing\tnoise\n{rows}", **files}), "x")
    (guess,) = found.guesses
    assert (guess.split, guess.endings, guess.evidence.band) == (",", (".wav",), "sure")
    assert [one.text for one in guess.evidence.misfits] == [f"sounds/{SOUNDS[0]}.wav"]
    analysis = analyse(found.material.tree, load_layout(found.text.encode(), "x.toml"), Stock())
    assert [one.reference.name for one in analysis.resolutions.missing] == [f"sounds/{SOUNDS[0]}.wav"]


@pytest.mark.parametrize(
    ("texts", "owners", "expected"),
    [
        (["wav/a.wav", "wav/b.wav"], "sounds/t.tab", (("sounds",), False, ())),
        (["a", "b"], "t.tab", (("sounds/wav",), False, (".wav",))),
        (["../sounds/wav/a.wav"], "scene/q.xml", ((), True, ())),
        (["sounds\\wav\\a.wav"], "t.tab", ((), False, ())),
    ],
)
def test_how_files_are_written(
    texts: list[str], owners: str, expected: tuple[tuple[str, ...], bool, tuple[str, ...]]
) -> None:
    files = Files(frozenset({"sounds/wav/a.wav", "sounds/wav/b.wav", "scene/q.xml", "sounds/t.tab"}))
    writing = files.writing_of(texts, [owners] * len(texts))
    assert writing is not None
    assert (writing.under, writing.beside, writing.suffix) == expected
    assert all(files.found(text, owners, writing) for text in texts)


def test_the_bound_is_never_below_the_truth() -> None:
    for texts in (1, 5, 40, 300):
        for hits in range(1, texts + 1, max(1, texts // 7)):
            for chance in (0.001, 0.05, 0.4):
                assert 10 ** tail(hits, texts, chance) >= binom.sf(hits - 1, texts, chance) * (1 - 1e-9)


@pytest.mark.parametrize(
    ("text", "shape"),
    [
        ("12", "number"),
        ("-3.5", "number"),
        ("a/b.png", "path"),
        ("tide.low", "dotted"),
        ("fog_bell", "joined"),
        ("fogBell", "humped"),
        ("bell", "word"),
        ("a bell in the fog", "prose"),
        ("a_" * 90 + "!", "prose"),
        ("", "prose"),
    ],
)
def test_shapes(text: str, shape: str) -> None:
    assert shape_of(text) == shape


STEP = st.sampled_from(("a", "b", "c"))
PATH = st.builds(
    lambda steps, ending: "/".join(steps) + ending,
    st.lists(STEP, min_size=1, max_size=4),
    st.sampled_from((".x", ".y", "")),
)


@given(st.sets(PATH, min_size=1, max_size=12), st.data())
def test_patterns_mean_the_files_and_no_others(paths: set[str], data: st.DataObject) -> None:
    mine = data.draw(st.sets(st.sampled_from(sorted(paths)), min_size=1))
    found = [Glob(one) for one in globs_for(sorted(mine), sorted(paths - mine))]
    assert {path for path in paths if any(glob.matches(path) for glob in found)} == mine


def test_sorts_that_lie_mixed_are_one(tmp_path: Path) -> None:
    lot = random.Random(3)
    files = {f"x/{number}.xml": f"<{lot.choice(('Gate', 'Quay'))}/>" for number in range(80)}
    (sort,) = material_of(written(tmp_path / "x", files)).sorts
    assert (len(sort.paths), sort.globs) == (80, ("**/*.xml",))


def test_what_is_not_looked_into_is_told(tmp_path: Path) -> None:
    tree = written(tmp_path / "x", {"a.xml": "<A"})
    (tmp_path / "x/b.dat").write_bytes(bytes(range(256)) * 20)
    material = material_of(tree)
    assert material.sorts == ()
    assert {(one.ending, one.files) for one in material.unread} == {(".xml", 1), (".dat", 1)}


@pytest.mark.no_cover
@pytest.mark.parametrize(
    "text",
    [
        "[" * 5000,
        '{"a":' * 3000 + "1" + "}" * 3000,
        "<a>" * 3000 + "</a>" * 3000,
        '<!DOCTYPE a [<!ENTITY b "bbbbbbbbbb"><!ENTITY c "&b;&b;&b;&b;">]><a>&c;</a>',
        "x { " * 3000,
        "f(" * 5000,
        "a_" * 20_000 + "!\n",
        '"' * 9999,
        "a." * 50_000 + "\n",
        "a" + " " * 200_000 + "\n[b]\n",
        "a:" * 5_000 + "(\n" + 'f("x")\n' * 9,
        "f(" + "x," * 50_000 + "\n",
        'key "a" ' * 30_000,
    ],
)
def test_what_is_made_to_keep_a_reader_busy_does_not(text: str, tmp_path: Path) -> None:
    good = "".join(f'<Use model="{one}"/>' for one in TREES)
    files = {f"bad{n}{ending}": text for n, ending in enumerate((".json", ".xml", ".txt", ".lua", ".odd", ".ini"))}
    found = learned(written(tmp_path / "x", {**files, "good.xml": f"<Scene>{good}</Scene>"}), "x")
    assert found.read >= 1
