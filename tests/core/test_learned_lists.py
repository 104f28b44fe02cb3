"""Lists of scripts, values by the section around them, second names, and files of which a part is missing."""

from __future__ import annotations

from pathlib import Path

from hookset.learning import learned
from hookset.learning.evidence import band_of
from tests.core.test_learning import rules, written

CREWS = ["anna", "bert", "carla", "dora", "egon", "frieda", "gustav", "hedda", "ingo", "jutta"]
PIERS = ["north_pier", "south_pier", "old_quay", "fish_dock", "mole_end", "salt_ramp"]


def test_what_a_list_names_of_scripts_is_what_other_calls_name(tmp_path: Path) -> None:
    files = {f"talks/{one}.lua": f'ask("{one}?")\nlocal greeted = {n}\n' for n, one in enumerate(CREWS)}
    files["people.lua"] = f"crew_list {{ {', '.join(map(repr, CREWS))} }}\n".replace("'", '"')
    files["start.lua"] = "".join(f'meet("{one}")\n' * 2 for one in CREWS[:7])
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["call=meet"][0] == "crew-list"
    assert told["call=crew_list field=*"][0] == "script"


def test_what_a_list_leaves_out_is_looked_up_among_the_scripts(tmp_path: Path) -> None:
    files = {f"talks/{one}.lua": f'ask("{one}?")\nlocal greeted = {n}\n' for n, one in enumerate(CREWS)}
    files["people.lua"] = f"crew_list {{ {', '.join(map(repr, CREWS[:5]))} }}\n".replace("'", '"')
    files["start.lua"] = "".join(f'meet("{one}")\n' * 2 for one in CREWS)
    told = rules(learned(written(tmp_path / "quay", files), "quay"))
    assert told["call=meet"] == ("script", "sure")


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


def test_numbers_in_sections_refer_to_nothing(tmp_path: Path) -> None:
    files = {}
    for n in range(6):
        rows = "".join(
            f'<section name="{one}"><number name="depth" value="{m + n}"/></section>' for m, one in enumerate(PIERS)
        )
        files[f"charts/chart{n}.xml"] = f"<chart>{rows}</chart>"
    assert rules(learned(written(tmp_path / "quay", files), "quay")) == {}


def test_files_that_are_spelled_out_are_likely_though_a_third_is_missing() -> None:
    assert band_of(-200.0, 0.7, 90, 90, 300, spelled=True) == "likely"
    assert band_of(-200.0, 0.7, 90, 90, 300) == "weak"
    assert band_of(-30.0, 0.7, 90, 90, 300, spelled=True) == "weak"
    assert band_of(-200.0, 0.6, 90, 120, 300, spelled=True) == "weak"


def test_records_have_second_names(tmp_path: Path) -> None:
    rows = [f'[boat_{one}]\nname = "{one.title()}"\n' for one in CREWS]
    rows[2] += 'rule_name = "Carlotta"\n'
    rows[4] += 'rule_name = "Egbert"\n'
    files = {
        "boats.ini": "".join(rows),
        "people.ini": "".join(f"[crew_{n}]\nboat = {one}\n" for n, one in enumerate(PIERS)),
    }
    sails = [one.title() for one in CREWS] * 12 + ["Carlotta", "Egbert", "Carlotta"]
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
