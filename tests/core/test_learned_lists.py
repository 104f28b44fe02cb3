"""Lists of scripts, values by the section around them, second names, and files of which a part is missing."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from hookset.learning import learned
from hookset.learning.evidence import band_of
from hookset.learning.layout_text import place_text
from hookset.learning.material import Sort, material_of
from hookset.learning.place import Place
from hookset.learning.places import places_of
from hookset.learning.said import Said
from tests.core.test_learning import rules, written

CREWS = ["anna", "bert", "carla", "dora", "egon", "frieda", "gustav", "hedda", "ingo", "jutta"]
PIERS = ["north_pier", "south_pier", "old_quay", "fish_dock", "mole_end", "salt_ramp"]


def with_list(folder: Path, listed: Sequence[str], met: Sequence[str]) -> dict[str, tuple[str, str]]:
    """The rules of a map with scripts, a list of some of them, and calls that name some."""
    files = {f"talks/{one}.lua": f'ask("{one}?")\nlocal greeted = {n}\n' for n, one in enumerate(CREWS)}
    files["people.lua"] = f"crew_list {{ {', '.join(map(repr, listed))} }}\n".replace("'", '"')
    files["start.lua"] = "".join(f'meet("{one}")\n' * 2 for one in met)
    return rules(learned(written(folder / "quay", files), "quay"))


def test_what_a_list_names_of_scripts_is_what_other_calls_name(tmp_path: Path) -> None:
    told = with_list(tmp_path, CREWS, CREWS[:7])
    assert told["call=meet"][0] == "crew-list"
    assert told["call=crew_list field=*"][0] == "script"


def test_what_a_list_leaves_out_is_looked_up_among_the_scripts(tmp_path: Path) -> None:
    assert with_list(tmp_path, CREWS[:8], CREWS)["call=meet"] == ("script", "sure")


def test_a_list_that_says_a_script_twice_defines_nothing(tmp_path: Path) -> None:
    assert with_list(tmp_path, [*CREWS, "anna"], CREWS)["call=meet"] == ("script", "sure")


def test_one_key_means_something_else_in_each_section(tmp_path: Path) -> None:
    files = {f"piers/{one}/{one}.xml": f'<pier length="{n}"/>' for n, one in enumerate(PIERS)}
    files |= {f"crews/{one}/{one}.xml": f'<crew rank="{n}"/>' for n, one in enumerate(CREWS)}
    for n in range(12):
        hands = [CREWS[(n + m) % 10] for m in range(4)]
        rows = [("Route", PIERS[n % 6]), ("Route", PIERS[(n + 1) % 6]), *(("Hands", one) for one in hands)]
        rows += [("Header", f"Trip {n}"), ("Remarks", f"Mind the {n} rocks")]
        parts = "".join(
            f'<section name="{section}"><text name="name" value="{one}"/><text name="hint" value="see {one}"/></section>'
            for section, one in rows
        )
        files[f"trips/trip{n}.xml"] = f"<trip>{parts}</trip>"
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["at=//section[@name='Route']//text[@name='name']/@value"] == ("pier", "sure")
    assert told["at=//section[@name='Hands']//text[@name='name']/@value"] == ("crew", "sure")
    assert not any("Header" in key for key in told)


def test_sections_that_are_numbered_are_of_one_sort(tmp_path: Path) -> None:
    rows = [(f"camera {n}", one) for n, one in enumerate(PIERS)] + [("Header", "Fog"), ("Lights", "Dusk")]
    parts = "".join(
        f'<section name="{name}"><text name="near" value="{one}"/><text name="as" value="a"/></section>'
        for name, one in rows
    )
    sorts = material_of(written(tmp_path / "quay", {f"{n}.xml": f"<trip>{parts}</trip>" for n in range(4)})).sorts
    asked = {str(place.asked["at"]) for sort in sorts for place in places_of(sort)}
    assert "//section[@name='Lights']//text[@name='near']/@value" in asked
    assert not any("camera" in at for at in asked)


def test_files_that_are_spelled_out_are_likely_though_a_third_is_missing() -> None:
    assert band_of(-200.0, 0.7, 90, 90, 300, spelled=True) == "likely"
    assert band_of(-200.0, 0.7, 90, 90, 300) == "weak"
    assert band_of(-30.0, 0.7, 90, 90, 300, spelled=True) == "weak"
    assert band_of(-200.0, 0.6, 90, 120, 300, spelled=True) == "weak"


def test_records_have_second_names(tmp_path: Path) -> None:
    names = [f"{one} of {pier}" for one in CREWS for pier in PIERS]
    rows = [f'[boat_{n}]\nname = "{one}"\n' for n, one in enumerate(names)]
    rows[2] += 'rule_name = "Carlotta"\n'
    rows[4] += 'rule_name = "Egbert"\n'
    files = {"boats.ini": "".join(rows)}
    sails = [*names, *names, "Carlotta", "Egbert"]
    files["sails.ini"] = "".join(f'[sail_{n}]\nboat = "{one}"\n' for n, one in enumerate(sails))
    found = learned(written(tmp_path / "quay", files), "quay")
    (guess,) = (one for one in found.guesses if one.place.word == "boat" and one.targets)
    assert [target.place.word for target in guess.targets] == ["name", "rule_name"]
    assert (guess.band, guess.evidence.misfits) == ("sure", ())


def test_what_surer_rules_explain_is_not_called_missing_by_a_likely_one(tmp_path: Path) -> None:
    files = {f"pictures/{one}.png": "x" for one in PIERS[:4]}
    files["people.ini"] = "".join(f"[person]\nid = {one}_of_the_pier\n" for one in CREWS)
    keys = ["boss", "cook", "guard", "guest", "heir", "mate", "nurse", "owner", "patron", "smith"]
    fields = [f"{key} = {one}_of_the_pier" for key, one in zip(keys, CREWS, strict=True)]
    rows = [f"[pier]\nsign = pictures/{one}.png\n{field}\n" for one, field in zip(PIERS[:3], fields, strict=False)]
    files["piers.ini"] = "".join(rows) + "".join(f"[pier]\n{field}\n" for field in fields[3:])
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["key=sign"] == ("file", "sure")
    assert [key for key in told if "key=*" in key] == []


def test_a_language_is_known_whatever_its_files_are_called(tmp_path: Path) -> None:
    files = {f"talks/{one}.talk": f'local greeted = {n}\nask("{one}?")\nmeet("{one}")\n' for n, one in enumerate(CREWS)}
    files["talks/anna.talk"] = 'ask("anna?" end\n' + "-- fog\n" * 9
    sorts = material_of(written(tmp_path / "quay", files)).sorts
    assert next((sort.format, len(sort.documents)) for sort in sorts) == ("lua", len(CREWS) - 1)


def test_calls_in_no_language_that_is_known_are_read_by_their_lines(tmp_path: Path) -> None:
    files = {f"talks/{one}.talk": f'ask("{one}?") => {n} !\nmeet("{one}") => 2 !\n' for n, one in enumerate(CREWS)}
    (sort,) = material_of(written(tmp_path / "quay", files)).sorts
    assert (sort.format, len(sort.documents)) == ("text", len(CREWS))


def test_fields_stand_where_they_are_in_lines_that_are_there_again(tmp_path: Path) -> None:
    rows = [f"boat {one}\nrope 12 {one}\nend\n" for one in CREWS] * 2
    files = {f"crews/{n}.list": "".join(rows[n : n + 12]) for n in range(8)}
    (sort,) = material_of(written(tmp_path / "quay", files)).sorts
    for place in places_of(sort):
        for text, path, where in zip(place.said.texts, place.said.paths, place.said.wheres, strict=True):
            assert files[path][int(where) :].startswith(text)
            assert files[path][int(where) - 1 : int(where)] in ("", " ", "\n")


def test_of_many_patterns_of_files_a_few_are_shown() -> None:
    globs = tuple(f"{name}/*.des" for name in "abcdefgh")
    place = Place(Sort("text", {}, {}, globs), {"match": "x"}, "value", "", "", Said())
    assert place_text(place) == 'a/*.des, b/*.des, c/*.des and 5 more patterns: match = "x"'
    few = Place(Sort("text", {}, {}, globs[:4]), {"match": "x"}, "value", "", "", Said())
    assert place_text(few) == 'a/*.des, b/*.des, c/*.des, d/*.des: match = "x"'


def test_a_map_in_which_nothing_is_defined_is_looked_at_all_the_same(tmp_path: Path) -> None:
    files = {f"pics/{one}.png": "" for one in PIERS[:3]}
    files["draw.fmt"] = "".join(f"{one} {one}\n" for one in (*PIERS[:3], *PIERS[:3])) + "other words\n" * 3
    result = learned(written(tmp_path / "map", files), "piers")
    assert {one.files.under for one in (*result.guesses, *result.weak) if one.files is not None} <= {("pics",)}
