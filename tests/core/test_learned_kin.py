"""Learned by what is known of others: what is too rare to say much by itself, and what is called as its folder is."""

from __future__ import annotations

from pathlib import Path

import pytest

from hookset.learning import Learned, learned
from tests.core.test_learning import rules, written

ROLES = ["pilot", "warden", "rower", "dredger", "smuggler", "keeper"]
HULLS = ["dinghy", "barge", "trawler", "cutter", "lugger"]
STAGES = ["ebb", "flood", "slack", "spring", "neap"]


def _port(tmp_path: Path, **more: str) -> Learned:
    """Sorts of records that have others of their own sort, and now and then one that names a role."""
    hulls = "".join(
        f'  <hull id="h_{one}" role="r_{ROLES[n]}"' + (f' like="h_{HULLS[n - 1]}"' if n else "") + "/>\n"
        for n, one in enumerate(HULLS)
    )
    stages = "".join(
        f'  <stage id="t_{one}"' + (f' like="t_{STAGES[n - 1]}"' if n else "") + "/>\n" for n, one in enumerate(STAGES)
    )
    roles = "".join(
        f'  <role id="r_{one}"/>\n' for one in (*ROLES, *(f"{one}_of_{two}" for one in ROLES for two in HULLS))
    )
    rare = "".join(f"  {line}\n" for line in more.values())
    return learned(
        written(tmp_path / "map", {"port.xml": f"<port>\n{roles}{hulls}{stages}{rare}</port>\n"}),
        "port",
    )


def _band(result: Learned, at: str) -> str:
    """The band of a rule; what is weak is left out."""
    return next((one.evidence.band for one in result.guesses if one.place.asked.get("at") == at), "weak")


def test_one_name_is_likely_where_its_word_is_that_of_what_it_names(tmp_path: Path) -> None:
    locks = "".join(f'<lock required-role="r_pilot_of_{one}"/>' for one in ("dinghy", "barge") * 2)
    sluices = "".join(f'<sluice depth="r_rower_of_{one}"/>' for one in ("dinghy", "barge") * 2)
    result = _port(tmp_path, locks=locks, sluices=sluices)
    assert _band(result, "//lock/@required-role") == "likely"
    assert rules(result)["at=//lock/@required-role"][0] == "role"
    assert _band(result, "//sluice/@depth") == "weak"


def test_records_have_others_of_their_own_sort_under_a_word_that_elsewhere_means_so(tmp_path: Path) -> None:
    gates = {"a": '<gate id="g_north"/>', "b": '<gate id="g_south" like="g_north"/>', "c": '<gate id="g_west"/>'}
    gates |= {
        "d": '<gate id="g_east" like="g_north"/>',
        "e": '<gate id="g_old" within="g_south"/><gate id="g_new" within="g_east"/>',
    }
    result = _port(tmp_path, **gates)
    assert _band(result, "//hull/@like") == "likely"
    assert _band(result, "//gate/@like") == "likely"
    assert _band(result, "//gate/@within") == "weak"


def test_a_file_is_likely_where_others_name_files_of_its_folder(tmp_path: Path) -> None:
    files = {f"charts/inner/{one}.png": "" for one in (*ROLES, *HULLS)}
    shown = "".join(f"chart {number}\n\tshown inner/{one}\n" for number, one in enumerate(ROLES))
    files["charts.txt"] = f"{shown}sea\n\tfog inner/barge\n"
    result = learned(written(tmp_path / "map", files), "charts")
    found = {guess.place.word: guess.evidence.band for guess in result.guesses if guess.files is not None}
    assert found == {"shown": "sure", "fog": "likely"}


def test_what_is_counted_in_a_list_defines_nothing(tmp_path: Path) -> None:
    """Cups list races, and an event lists cups: there are more names behind numbers than behind any other key."""
    races = "".join(f"*[struct] 0 [race] race_{one} [time] {number}\n" for number, one in enumerate(HULLS))
    cups = "".join(f"*[struct] 1 [cup] cup_{one} [1] race_{HULLS[n]}\n" for n, one in enumerate(STAGES))
    event = "*[struct] 2 [event] regatta " + " ".join(f"[{n}] cup_{one}" for n, one in enumerate(STAGES)) + "\n"
    result = learned(written(tmp_path / "map", {"races.lst": races + cups + event}), "races")
    found = [(str(one.place.asked["match"]), {it.place.word for it in one.targets}) for one in result.guesses]
    assert [(match[:7], words) for match, words in found] == [(r"\[\d+\]", {"race", "cup"})]


@pytest.mark.parametrize(("word", "kind"), [("course", ("course", "sure")), ("hue", None)])
def test_what_is_called_as_its_folder_is_names_what_is_in_it(
    tmp_path: Path, word: str, kind: tuple[str, str] | None
) -> None:
    """Each course is said once, beside its own name, as definitions are; but there is a folder of courses."""
    files = {f"courses/{one}/items.lst": "*[item] buoy\n" for one in (*ROLES, *HULLS)}
    legs = "".join(f'<leg {word}="{one}" deep="{n}.5"/>' for n, one in enumerate(ROLES))
    files["cup.xml"] = f"<cup>{legs}</cup>"
    assert rules(learned(written(tmp_path / "map", files), "cup")).get(f"at=//leg/@{word}") == kind


def test_a_picture_beside_what_is_shown_in_it_is_not_what_is_meant(tmp_path: Path) -> None:
    files = {f"maps/{one}.jpg": "" for one in (*ROLES, *HULLS)} | {f"maps/{one}.tmx": "<map/>" for one in ROLES}
    files["list.xml"] = "<list>" + "".join(f'<map id="{one}"/>' for one in ROLES) + "</list>"
    result = learned(written(tmp_path / "map", files), "list")
    (listed,) = [guess for guess in result.guesses if guess.place.asked.get("at") == "//map/@id"]
    assert listed.files is not None
    assert listed.files.suffix == (".tmx",)


def test_of_folders_that_hold_the_same_the_one_in_english_is_meant(tmp_path: Path) -> None:
    files = {f"help/{tongue}/{one}.txt": f"{one}\n" for tongue in ("B", "D", "E", "F") for one in ROLES}
    files["scene.xml"] = "<scene>" + "".join(f'<page shown="{one}.txt"/>' for one in ROLES) + "</scene>"
    result = learned(written(tmp_path / "map", files), "scene")
    (shown,) = [guess for guess in result.guesses if guess.place.word == "shown"]
    assert shown.files is not None
    assert shown.files.under == ("help/E",)


def test_of_texts_that_begin_in_one_way_most_are_names_where_those_that_begin_in_another_surely_are(
    tmp_path: Path,
) -> None:
    crews = "".join(f"[{one}]\npay = {number}\n" for number, one in enumerate(ROLES))
    found = [f"find | {one} | {number}" for number, one in enumerate(ROLES)]
    hidden = [f"hide | {one} | 5" for one in (*ROLES[:2], ROLES[0], "at_once")]
    deeds = "".join(f"[deed{number}]\ndoes = {one}\n" for number, one in enumerate((*found, *hidden)))
    result = learned(written(tmp_path / "map", {"crews.dat": crews, "deeds.dat": deeds}), "crews")
    bands = {str(one.place.asked.get("only"))[1:5]: one.evidence.band for one in result.guesses}
    assert bands == {"find": "sure", "hide": "likely"}


def test_what_is_added_under_a_word_is_called_so(tmp_path: Path) -> None:
    added = "".join(f"PaintAdd = {one}_of_{two}\n" for one in ROLES for two in HULLS)
    rare = "HullPaint = pilot_of_dinghy\nHullPaint = rower_of_barge\nHullPaint = pilot_of_dinghy\n"
    other = "Depth = keeper_of_dinghy\nDepth = warden_of_barge\nDepth = keeper_of_dinghy\n"
    files = {"paint.ini": f"[paint]\n{added}", "quay.ini": f"[quay]\n{rare}{other}"}
    result = learned(written(tmp_path / "map", files), "paint")
    assert {one.place.word for one in result.guesses if one.evidence.band == "likely"} == {"HullPaint"}
