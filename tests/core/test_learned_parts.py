"""Learned: texts that are several names, or a name behind a mark; the names that each file has for its own; lists in
round brackets, in which one key means the same in blocks of many words."""

from __future__ import annotations

import json
import random
import re
from pathlib import Path

import pytest

from hookset.checks import judge
from hookset.config.layouts.load import load_layout
from hookset.learning import learned
from hookset.learning.evidence import band_of
from hookset.learning.languages import languages_of
from hookset.learning.material import material_of
from hookset.learning.places import places_of
from hookset.learning.vocabulary import Vocabulary
from hookset.project import Ledger, Stock
from hookset.trees import FolderTree
from tests.core.test_learning import rules, written

LOT = random.Random(47)
CRANES = [f"{how}-{what}" for how in ("rusty", "tall", "old", "swift") for what in ("crane", "winch", "hoist", "boom")]
LOOKS = [f"look-{one}" for one in CRANES]
BELLS = ["fog-toll", "noon-peal", "gale-clang", "ebb-chime", "dusk-knell"]


def things() -> str:
    looks = "".join(f'<look id="{one}" picture="{one}.png"/>' for one in LOOKS)
    made = "".join(f'<thing class="{one}" mass="{n}"/>' for n, one in enumerate(CRANES))
    return f"<things>{looks}{made}</things>"


def place(names: list[str]) -> str:
    rows = "".join(f'<property name="{one}" value="{n} by {n * 7}"/>' for n, one in enumerate(names))
    return f'<place>{rows}<property name="ambient" value="{LOT.choice(BELLS)}.ogg"/></place>'


@pytest.fixture
def quay(tmp_path: Path) -> FolderTree:
    """Places whose properties are called after what stands there: sort, thing, look and number; one look is misspelt."""
    names = [f"thing:{one}:{look}:{n}" for n, (one, look) in enumerate(zip(CRANES * 3, LOOKS * 2 + LOOKS, strict=True))]
    names[5] = names[5].replace("look-", "lok-")
    files = {f"places/p{n}.xml": place([*names[n::8], f"spawn:{n}", f"edge:{n}:{n + 1}"]) for n in range(8)}
    files |= {f"looks/{one}.png": "" for one in LOOKS} | {f"sounds/{one}.ogg": "" for one in BELLS}
    return written(tmp_path / "map", {**files, "things.xml": things()})


def test_each_of_several_names_in_a_text_is_one_by_itself(quay: FolderTree) -> None:
    found = learned(quay, "quay")
    named = [
        (one.place.asked["only"], one.place.segment, one.evidence.band, one.evidence.hits)
        for one in found.guesses
        if one.place.segment
    ]
    assert sorted(named) == [
        ("^thing:(?P<value>[^:]+)", 2, "sure", 48),
        ("^thing:[^:]*:(?P<value>[^:]+)", 3, "sure", 47),
    ]
    told = judge(quay, load_layout(found.text.encode(), "quay.toml"), Stock(), Ledger()).findings
    assert [one.name for one in told if one.code == "missing-name"] == ["lok-tall-winch"]


def test_what_stands_in_brackets_behind_a_name_is_none_of_it(tmp_path: Path) -> None:
    names = [f"thing:{one}{'(shining)' if n % 3 else ''}:x{n}" for n, one in enumerate(CRANES * 2)]
    files = {f"places/p{n}.xml": place([*names[n::8], f"spawn:{n}", f"edge:{n}:{n + 1}"]) for n in range(8)}
    (one,) = (
        one
        for one in learned(written(tmp_path, {**files, "things.xml": things()}), "quay").guesses
        if one.place.segment and one.evidence.band == "sure"
    )
    assert (one.place.asked["only"], one.evidence.hits) == ("^thing:(?P<value>[^:(]+)", 32)


def test_texts_for_people_are_not_taken_apart_at_colons(tmp_path: Path) -> None:
    says = "".join(f'<say text="{one}: {one} is not here"/>' for one in CRANES)
    found = learned(written(tmp_path, {"says.xml": f"<says>{says}</says>", "things.xml": things()}), "quay")
    assert not [one for one in found.guesses if one.place.segment]


def test_a_property_that_many_places_have_is_told_from_those_that_are_names(quay: FolderTree) -> None:
    assert rules(learned(quay, "quay"))["at=//property[@name='ambient']/@value"] == ("file", "sure")


def test_a_mark_before_a_name_says_what_is_meant(tmp_path: Path) -> None:
    sounds = "".join(
        f'<pose id="p{n}" sound="{one}.ogg"/><pose id="q{n}" sound="@{one}"/>' for n, one in enumerate(BELLS)
    )
    classes = "".join(f'<sounds name="{one}" loud="1"/>' for one in BELLS)
    files = {f"sounds/{one}.ogg": "" for one in BELLS}
    found = learned(written(tmp_path, {**files, "a.xml": f"<all>{classes}{sounds}</all>"}), "quay")
    marked = {
        one.place.asked.get("only", one.place.asked.get("skip")): one
        for one in found.guesses
        if one.files or one.targets
    }
    assert marked["^@(?P<value>.+)$"].targets[0].place.word == "name"
    assert marked["^(?:@)"].files is not None


def test_things_that_are_called_as_their_looks_are_of_another_kind(tmp_path: Path) -> None:
    """A list asks for looks, and for some that only things are called: those are not there."""
    names = [f"{one}{end}" for one in CRANES for end in ("", "-ii")]
    there, only_things = names[:28], names[28:]
    looks = "".join(f'<look id="{one}" picture="{n}"/>' for n, one in enumerate([*there, *LOOKS]))
    asked = {one: LOOKS[n % 16] if n < 24 else one for n, one in enumerate(names)}
    listed = "".join(f'<entry id="{one}"><look id="{look}"/></entry>' for one, look in asked.items())
    shown = "".join(f'<show look="{one}"/>' for one in [*there, *LOOKS])
    used = "".join(f'<use entry="{one}"/>' for one in names)
    files = {"looks.xml": f"<looks>{looks}{shown}</looks>", "list.xml": f"<list>{listed}{used}</list>"}
    guesses = learned(written(tmp_path, files), "quay").guesses
    (one,) = (one for one in guesses if "list.xml" in one.place.sort.globs and one.place.asked == {"at": "//look/@id"})
    assert [misfit.text for misfit in one.evidence.misfits] == only_things


def level(n: int, sectors: list[str]) -> str:
    doors = "".join(f'    (door\n      (sector "{one}")\n      (x {n})\n    )\n' for one in [*sectors, sectors[0]])
    pictures = "".join(
        f'    ({word}\n      (picture "pictures/{CRANES[(n + at) % 16]}.png")\n      (x {at})\n    )\n'
        for at, word in enumerate(("crate", "barrel", "lamp", "rope"))
    )
    whole = "".join(f'  (sector\n    (name "{one}")\n{doors}{pictures}  )\n' for one in sectors)
    return f'(quay-level\n  (version {n})\n  (title "The quay of {CRANES[n % 16]}")\n{whole})\n'


@pytest.fixture
def levels(tmp_path: Path) -> FolderTree:
    """Levels with sectors of their own, most of them one that is called as in the others."""
    files = {f"levels/l{n:02}.lvl": level(n, ["main", *([f"cellar{n}", "attic"][: n % 3])]) for n in range(24)}
    files["levels/l07.lvl"] = files["levels/l07.lvl"].replace('(sector "cellar7")', '(sector "celar7")', 1)
    return written(tmp_path / "map", files | {f"pictures/{one}.png": "" for one in CRANES})


def test_each_file_has_names_of_its_own_though_many_are_alike(levels: FolderTree) -> None:
    (one,) = (
        one for one in learned(levels, "quay").guesses if one.place.word == "sector" and one.place.form == "value"
    )
    assert one.evidence.band == "sure" and one.targets[0].own
    assert [misfit.text for misfit in one.evidence.misfits] == ["celar7"]


def test_a_key_of_many_blocks_is_one_rule(levels: FolderTree) -> None:
    found = rules(learned(levels, "quay"))
    assert found["at=**/picture"] == ("file", "sure")
    assert not [way for way in found if way.endswith("/picture") and way != "at=**/picture"]


def shown(word: str, name: str) -> str:
    return f"colour-{name}" if word == "frame" else f"pictures/{name}.png"


def test_what_many_blocks_refer_to_is_what_defines_it(tmp_path: Path) -> None:
    words = ("crate", "barrel", "lamp")
    things = "".join(f'({words[n % 3]}\n  (way-of "{one}")\n  (x {n})\n)\n' for n, one in enumerate(CRANES[:14]))
    ways = "".join(f'(way\n  (name "{one}")\n  (y {n})\n)\n' for n, one in enumerate(CRANES))
    found = rules(learned(written(tmp_path, {"a.lvl": things + ways}), "quay"))
    assert found == {"at=**/way-of": ("way", "sure")}


def test_a_key_that_means_something_else_in_one_block_is_no_rule_for_all(tmp_path: Path) -> None:
    text = "".join(
        f'({word}\n  (picture "{shown(word, one)}")\n  (x {n})\n)\n'
        for word in ("crate", "barrel", "lamp", "frame")
        for n, one in enumerate(CRANES)
    )
    found = rules(learned(written(tmp_path, {"a.lvl": text, **{f"pictures/{one}.png": "" for one in CRANES}}), "quay"))
    assert "at=**/picture" not in found
    assert found["at=crate/picture"] == ("file", "sure")


def test_lists_of_texts_in_round_brackets_are_read(tmp_path: Path) -> None:
    letters = "".join(f'    "{chr(97 + n) * 9};{chr(97 + n)}"\n' for n in range(20))
    text = f'(quay-font\n  (width 16)\n  (glyphs "fonts/{{}}.png")\n  (letters\n{letters}  )\n)\n'
    files = {f"fonts/{one}.fnt": text.format(one) for one in CRANES} | {f"fonts/{one}.png": "" for one in CRANES}
    assert rules(learned(written(tmp_path, files), "quay"))["at=quay-font/glyphs"] == ("file", "sure")


def test_one_file_that_names_all_otherwise_leaves_a_rule_likely() -> None:
    assert band_of(-31.3, 0.57, 12, 9, 112, spelled=True) == "likely"
    assert band_of(-31.3, 0.57, 12, 9, 112, spelled=False) == "weak"
    assert band_of(-31.3, 0.57, 12, 30, 112, spelled=True) == "weak"
    assert band_of(-31.3, 0.4, 12, 9, 112, spelled=True) == "weak"


def test_a_name_in_a_path_is_what_the_scripts_folder_is_called(tmp_path: Path) -> None:
    files: dict[str, str] = {}
    for n, one in enumerate(CRANES):
        files[f"code/{one}/init.lua"] = f'level = "{one}"\nrun("code/" .. level .. "/models.lua")\n'
        files[f"code/{one}/models.lua"] = f'room({n}, "pictures/" .. level .. "/sky{n}.png")\n'
        files[f"pictures/{one}/sky{n}.png"] = ""
    del files[f"pictures/{CRANES[3]}/sky3.png"]
    tree = written(tmp_path / "map", files)
    found = learned(tree, "quay")
    assert rules(found)["call=room arg=2"] == ("file", "sure")
    told = judge(tree, load_layout(found.text.encode(), "quay.toml"), Stock(), Ledger()).findings
    assert [(one.code, one.name) for one in told if one.code == "missing-file"] == [
        ("missing-file", f"pictures/{CRANES[3]}/sky3.png")
    ]


def test_a_name_in_a_path_that_means_something_else_is_left_open(tmp_path: Path) -> None:
    files: dict[str, str] = {}
    for n, one in enumerate(CRANES):
        files[f"code/{one}/models.lua"] = f'room({n}, "pictures/" .. theme .. "/sky{n}.png")\n'
        files[f"pictures/dusk/sky{n}.png"] = ""
    assert "known" not in learned(written(tmp_path, files), "quay").text


def test_languages_stand_at_the_end_of_what_files_are_called(tmp_path: Path) -> None:
    """What is said in each level, in each language; the scripts beside say which."""
    files: dict[str, str] = {}
    for n, one in enumerate(CRANES):
        for language in ("cs", "de", "en", "pt_BR"):
            files[f"code/{one}/talks_{language}.lua"] = f'talk("{one}-ahoy", "a{n}")\ntalk("{one}-bye", "b{n}")\n'
        files[f"code/{one}/code.lua"] = f'say({n}, "{one}-ahoy")\nsay({n + 1}, "{one}-bye")\n'
    assert rules(learned(written(tmp_path, files), "quay"))["call=say arg=2"] == ("talk", "sure")


def test_two_letters_at_the_end_of_a_name_are_a_language_where_there_are_several() -> None:
    assert languages_of(["go_no.txt", "go_it.txt", "stay_is.txt", "stay_he.txt"]).keys() == {"no", "it", "is", "he"}
    assert languages_of(["go_no.txt", "do_it.txt", "this_is.txt"]) == {}
    assert languages_of(["de/go.txt", "en/go.txt"])["de"] == [("de/go.txt", "{variant}/go.txt")]
    assert languages_of(["go.pt-BR.txt", "go.de.txt"])["pt-BR"] == [("go.pt-BR.txt", "go.{variant}.txt")]


def escaped(tmp_path: Path) -> FolderTree:
    files = {f"code/c{n}.lua": f'bell("{one}")\nring("{CRANES[n // 2]}")\n' for n, one in enumerate(CRANES)}
    files["code/c3.lua"] += 'say("up\\/down", "C:\\quay")\n'
    return written(tmp_path, files)


def test_a_backslash_before_any_letter_is_read_where_the_layout_says_so(tmp_path: Path) -> None:
    tree = escaped(tmp_path)
    layout = '[[kinds.bell]]\n[[read]]\nfiles = "**/*.lua"\nformat = "lua"\n{}defines = [{{ kind = "bell", call = "say" }}]\n'
    layout = layout.replace("[[kinds.bell]]", '[layout]\nname = "quay"\ntitle = "quay"\n[kinds.bell]\nlabel = "bell"')

    def told(options: str) -> list[tuple[str, str]]:
        read = load_layout(layout.format(options).encode(), "quay.toml")
        verdict = judge(tree, read, Stock(), Ledger())
        names = [one.name for file in verdict.case.web.files for one in file.definitions]
        return [*((one.code, one.message) for one in verdict.errors), *(("name", name) for name in names)]

    assert told('options = { escapes = "any" }\n') == [("name", "up/down")]
    (message,) = (said for code, said in told("") if code == "unreadable")
    # What the message says to do works.
    said = re.search(r"`(options = .+?)`", message)
    assert said is not None and told(f"{said[1]}\n") == [("name", "up/down")]


def test_what_is_wrong_otherwise_is_not_mended_by_reading_backslashes(tmp_path: Path) -> None:
    tree = written(tmp_path, {"a.lua": 'bell("a\\/b"\n'})
    layout = '[layout]\nname = "q"\ntitle = "q"\n[kinds.b]\nlabel = "b"\n[[read]]\nfiles = "*.lua"\nformat = "lua"\n'
    read = load_layout(f'{layout}defines = [{{ kind = "b", call = "bell" }}]\n'.encode(), "q.toml")
    (one,) = (one for one in judge(tree, read, Stock(), Ledger()).errors if one.code == "unreadable")
    assert "escapes" not in one.message


def test_a_layout_is_learned_that_reads_backslashes_as_its_game_does(tmp_path: Path) -> None:
    tree = escaped(tmp_path)
    found = learned(tree, "quay")
    assert 'escapes = "any"' in found.text
    assert not judge(tree, load_layout(found.text.encode(), "quay.toml"), Stock(), Ledger()).errors
    plain = written(
        tmp_path / "plain", {f"c{n}.lua": f'bell("{one}")\nring("{CRANES[n // 2]}")\n' for n, one in enumerate(CRANES)}
    )
    assert "escapes" not in learned(plain, "plain").text


def test_what_is_asked_for_by_the_word_that_it_is_defined_with_is_of_that_kind(tmp_path: Path) -> None:
    """Of each sort there is an article, called as the sort is; boats say of which sort they are, and articles of what."""
    sorts, pages = CRANES[:9], [*CRANES, *LOOKS]
    ways = ("see", "read", "tell", "show", "open")
    files = {
        "sorts.xml": "<sorts>"
        + "".join(f'<sort name="{one}" order="{n}"/>' for n, one in enumerate(sorts))
        + "</sorts>",
        "pages.xml": "<pages>"
        + "".join(f'<page name="{one}" words="{n}0"/>' for n, one in enumerate(pages))
        + "</pages>",
        "ways.xml": "<ways>" + "".join(f'<{way} page="{one}"/>' for one in pages * 2 for way in ways) + "</ways>",
        "boats.xml": "<boats>" + "".join(f'<boat sort="{sorts[n % 4]}" long="{n}"/>' for n in range(28)) + "</boats>",
    }
    found = rules(learned(written(tmp_path, files), "quay"))
    assert found["at=//boat/@sort"][0] == "sort"
    assert found["at=//see/@page"][0] == "page"


def test_kinds_are_called_after_what_calls_make(tmp_path: Path) -> None:
    made = {"market_addWare": "buy", "talkId": "say", "new_boat_type": "sail", "bell": "ring"}
    code = "".join(
        f'{call}("{call[:2]}-{one}")\n{use}("{call[:2]}-{one}")\n{use}("{call[:2]}-{CRANES[n // 2]}")\n'
        for call, use in made.items()
        for n, one in enumerate(CRANES)
    )
    found = rules(learned(written(tmp_path, {"all.lua": code}), "quay"))
    assert {way: kind for way, (kind, _) in found.items()} == {
        "call=buy": "ware",
        "call=say": "talk",
        "call=sail": "boat",
        "call=ring": "bell",
    }


def test_numbers_in_files_of_two_languages_are_no_names(tmp_path: Path) -> None:
    said = json.dumps([{"x": n, "say": f"ahoy-{one}", "by": f"b{n}"} for n, one in enumerate(CRANES)])
    other = json.dumps([{"x": n, "say": f"ahoy-{one}", "by": f"c{n}"} for n, one in enumerate(CRANES)])
    tree = written(tmp_path, {"talk_it.json": said, "talk_no.json": other})
    places = {one.word: one for sort in material_of(tree).sorts for one in places_of(sort) if not one.used}
    likeness = {word: Vocabulary(place, place.counts).likeness for word, place in places.items()}
    assert (likeness["x"], likeness["say"], likeness["by"]) == (0, 2, 0)


def test_a_part_that_stands_for_none_is_no_name(tmp_path: Path) -> None:
    words = "".join(f'<word id="word_{one}_{n}"/>' for n, one in enumerate(CRANES * 3))
    asked = [f"*word:word_{one}_{n}" for n, one in enumerate(CRANES * 3)] + ["*word:none"] * 4 + ["*word:word_gone"]
    says = "".join(f'<say text="{one}"/>' for one in asked)
    tree = written(tmp_path, {"words.xml": f"<words>{words}</words>", "says.xml": f"<says>{says}</says>"})
    layout = load_layout(learned(tree, "words").text.encode(), "words.toml")
    told = judge(tree, layout, Stock(), Ledger()).findings
    assert [one.name for one in told if one.code == "missing-name"] == ["word_gone"]
