"""Notes that have several texts of which one is set."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.cli.test_draft_forms import drafted
from tests.conftest import run_hookset
from tests.terminal import at_terminal

WEIR = "local M = {}\nfunction M.begin(n) end\nfunction M.quick() end\nfunction M.slow() end\nreturn M\n"
MAIN = "In start() of scripts/server/main.lua"
FORMS = {
    "either": f"{MAIN} add either\n\n    weir.quick()\n\nor\n\n    weir.slow()\n",
    "within a sentence": f"{MAIN} add either `weir.quick()` or `weir.slow()`.\n",
    "numbered": f"{MAIN}, choose one of the following.\n\nOption A - for quick boats:\n\n    weir.quick()\n\n"
    "Option B - for slow ones:\n\n    weir.slow()\n",
    "in one text": f"{MAIN} (pick ONE of these two lines):\n\n    weir.quick()\n    weir.slow()\n",
    "said behind": f"{MAIN}:\n\n    weir.quick()\n\nInstead you can use\n\n    weir.slow()\n\nNever both.\n",
    "said behind only": f"{MAIN}:\n\n    weir.quick()\n    weir.slow()\n\nNever both.\n",
    "remarks": f"{MAIN} add\n  weir.quick()   -- in a hurry\nOR\n  weir.slow()    -- with time\n",
    "German": "In start() von scripts/server/main.lua entweder\n\n    weir.quick()\n\noder\n\n    weir.slow()\n\n"
    "eintragen, nicht beides.\n",
}


@pytest.mark.parametrize("form", FORMS)
def test_of_several_texts_a_setting_chooses(demo: Path, form: str) -> None:
    data = drafted(demo, FORMS[form], scripts__server__weir=WEIR)
    starts = [one["entry"] for one in data["hook"] if one["entry"]["seat"] == "server-start"]
    told = [(one["text"], one["when"]["setting"], one["when"]["equals"]) for one in starts]
    assert told == [("weir.quick()", "weir", "quick"), ("weir.slow()", "weir", "slow")]
    (setting,) = data["setting"]
    assert (setting["entry"]["default"], setting["entry"]["choices"]) == ("quick", ["quick", "slow"])
    # The notes do not say which: the builder is asked.
    assert not setting["sure"]
    assert data["not_understood"] == 0


@pytest.mark.no_cover
def test_a_builder_chooses_when_it_is_installed(demo: Path) -> None:
    drafted(demo, FORMS["numbered"], scripts__server__weir=WEIR)
    main = demo / "scripts/server/main.lua"
    before = main.read_bytes()
    pack = str(demo.parent / "weir")
    assert run_hookset(demo, "install", pack, "--as-drafted", "--set", "weir=slow").code == 0
    assert "weir.slow()" in main.read_text(encoding="utf-8")
    assert "weir.quick()" not in main.read_text(encoding="utf-8")
    assert run_hookset(demo, "install", pack, "--as-drafted", "--set", "weir=quick").code == 0
    assert "weir.quick()" in main.read_text(encoding="utf-8")
    assert "weir.slow()" not in main.read_text(encoding="utf-8")
    assert run_hookset(demo, "remove", "weir").code == 0
    assert main.read_bytes() == before


def test_at_a_terminal_it_is_asked_which(demo: Path) -> None:
    drafted(demo, FORMS["numbered"], scripts__server__weir=WEIR)
    pack = str(demo.parent / "weir")
    said = at_terminal(demo, ["install", pack], [("Go on with this draft", "yes\n"), ("answer", "2\n")])
    assert "quick" in said
    assert "weir.slow()" in (demo / "scripts/server/main.lua").read_text(encoding="utf-8")
    # Who has answered once is not asked again.
    said = at_terminal(demo, ["install", pack], [("Go on with this draft", "yes\n")])
    assert "answer" not in said


@pytest.mark.parametrize(
    "notes",
    [
        f"{MAIN}:\n\n    weir.quick()\n    weir.slow()\n",
        f"{MAIN} add to the end:\n\n    weir.quick()\n\nThen also:\n\n    weir.slow()\n",
        f"{MAIN}, either way:\n\n    weir.quick()\n\nand\n\n    weir.slow()\n",
    ],
)
def test_steps_that_follow_each_other_are_no_choice(demo: Path, notes: str) -> None:
    data = drafted(demo, notes, scripts__server__weir=WEIR)
    starts = [one["entry"] for one in data["hook"] if one["entry"]["seat"] == "server-start"]
    assert [(one["text"], one["when"]) for one in starts] == [("weir.quick()", None), ("weir.slow()", None)]
    assert data["setting"] == []


def test_options_of_several_steps_each_have_their_own(demo: Path) -> None:
    notes = (
        "Pick one.\n\nVariant 1 (quick)\n\nscripts/server/main.lua, with the imports:\n\n"
        '    local weir = require("weir")\n\nand in start():\n\n    weir.quick()\n\n'
        "Variant 2 (slow)\n\nscripts/server/main.lua, in start():\n\n    weir.slow()\n"
    )
    data = drafted(demo, notes, scripts__server__weir=WEIR)
    told = [(one["entry"]["text"], (one["entry"]["when"] or {}).get("equals")) for one in data["hook"]]
    choice = [equals for text, equals in told if text == "weir.quick()"]
    assert choice != [None]
    assert dict(told)['local weir = require("weir")'] == choice[0]
    assert dict(told)["weir.slow()"] not in (None, choice[0])
