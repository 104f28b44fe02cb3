"""How near drafts come to the hook sheets that a person wrote for the same packs. Writes docs/drafts.md.

python benchmarks/drafts.py
"""

from __future__ import annotations

import platform
import sys
import time
import tomllib
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.published import FOLDER, Score, draft_of, names, right_sheet, score

PAGE = Path(__file__).parent.parent / "docs/drafts.md"
STYLES = {
    "bell-hour": "entries for a file without seats; a text in two languages behind its name",
    "bell-ringer": "new lines marked by a star; what is wrong, and what is right",
    "bosun": "columns in the title; a list that becomes another",
    "buoy-light": "the whole main script shown, new lines marked by comments",
    "cable-ferry": "RTF; one entry with the bridge, another without; next free number",
    "calm-sea": "sections in a column, entries beside them",
    "cloche-brume": "French; texts in other languages than the notes; a key with its value replaced",
    "cordage": "French; with another pack only",
    "crab-pots": "files with rows to be put into the map's own",
    "crane": "sections within sentences; a text in another language behind the block",
    "crew-flags": "the author's spots; a list of types in a file",
    "dredger": "PDF; ids to be looked up",
    "duck-decoy": "no instructions: its own copies of the map's tables, to be merged",
    "ebb-clock": "German, all lower case, CP1252; a wrong file name",
    "eel-trap": "Windows paths, and what is the author's own",
    "ferry-bell": "frames; arrows in both directions; one key twice, for two languages",
    "ferry-lamp": "a table of files and what to do; never beside an object",
    "fish-market": "the author's whole table; an owner replaced in prose",
    "fish-rack": "how to take it out again, and how to come from an earlier version",
    "fog-bell": "plain text with DOS line ends, step by step",
    "fog-horn": "a line for each file, everything in it",
    "fog-race": "steps in square brackets; a line that becomes another; with another pack only",
    "foghorn": "a list with an arrow for each file",
    "gate-lamp": "HTML; a value that changes; an old entry in the list of changes",
    "gate-quiet": "lines to be taken out",
    "gate-siren": "French; a language in front of each text",
    "green-crew": "letters for numbers; entries within paragraphs",
    "gull-choir": "a thread, in which a name is put right; two files in one sentence",
    "gull-feeder": "entries in text files of their own; a program; with another pack only",
    "harbour-radio": "one paragraph; files to be sorted into folders",
    "heavy-gate": "texts of two languages on a line; values and texts of the map changed",
    "heron": "steps with bare numbers; a row to be copied, told only",
    "heronry": "Markdown; a shop folder that no map needs",
    "ice-buoys": "a letter with what it answers",
    "kelp-drift": "what is said in a film, with its moments",
    "kiosk": "French, Markdown with file names as headings",
    "kite": "no notes at all",
    "lamp-row": "files without folders; a wrong file name; an import forgotten",
    "lamp-switch": "YAML that lost its indentation",
    "lanterns": "German; a cell of a table; what is to be done at many places, told only",
    "lift-bridge": "typographic quotes; commas forgotten; the client's half forgotten",
    "lock-lamp": "a table of texts; one of two calls in a list; a value turned down",
    "long-regatta": "HTML; rows at the end of two files; the folder's name in a script",
    "market-stall": "German, CP1252; words to replace; pictures and sounds of one's own",
    "marks-south": "a forum post with its tags",
    "marsh-lantern": "commands for a shell, and a patch",
    "more-gulls": "as people chat",
    "nebel-tonne": "German, code page 850",
    "net-dryer": "everything twice, in English and in German",
    "night-lamps": "marks of a wiki; what can be set",
    "night-race": "steps with letters; values with their keys before and after",
    "night-watch": "an attribute for an object of the builder's own; settings in prose",
    "night-watchman": "a checklist; a table of sounds; its last line puts one entry elsewhere",
    "oyster-bed": "rows of a table with words about them",
    "quay-dog": "French; the client only",
    "quay-lantern": "German; a key with its texts in two languages on a line",
    "quay-music": "commands for Windows; what is for developers",
    "quiet-wheel": "who calls what, in prose; what is to be taken out, told only",
    "rain-barrel": "entries in files beside the notes, for the scene and for each language",
    "reed-screen": "a table of files and changes",
    "regatta": "the author's map name in paths; free slots",
    "rope-bridge": "a list with a further word behind an arrow; what is the builder's choice",
    "rope-ferry": "reStructuredText; ids; before what must be last",
    "rope-lift": "HTML table",
    "rope-swing": "a script forgotten",
    "schleusen-glocke": "German; before and after, and how to take it out again",
    "seal-rocks": "German; tabs where the table has semicolons",
    "second-bell": "an entry of the map copied and changed; texts behind the names of their files",
    "shed-door": "German; keys that an entry gets",
    "signal-mast": "an alternative with another pack; the notes of an older version beside it",
    "silt": "HTML with entities; ids that the author has in his map",
    "slow-tide": "a listing of changes; a line replaced, values of the map changed",
    "sluice": "words in square brackets for ids; above the water",
    "sluice-horn": "a diff of XML with the author's numbers; texts in a table",
    "smoke-house": "entries within a numbered list",
    "soft-rope": "a letter; one of two sounds under a new name; values changed",
    "spring-tide": "never on one map with another pack, or with an old script",
    "sprint": "a table of steps with the file, the section and the line",
    "storm": "instead of a line; texts below their languages",
    "storm-start": "a forum post; one of two",
    "tar-boiler": "a long page with questions, answers and an old entry in its changelog",
    "tarred-post": "an old file that has to go, as the two cannot stand together",
    "teer-kessel": "German; keys at the left edge; instead of a line",
    "teer-topf": "German; a key that comes to an entry of the map",
    "tern-post": "DOS frames around the notes; rows as keys and values",
    "tide-board": "leaders and arrows; texts below the names of their files",
    "tide-post": "a list of what it does not go with",
    "tide-siren": "a thread of a forum, put right by its second post",
    "town-clock": "both sides at once; how to use it, and what is optional",
    "weather-vane": "sections in sentences; a value told, and then made another",
    "weir": "question marks for ids; a node of the map to be added to",
    "weit-strand": "German; a value raised, at the end of the sentence",
    "winch": "blocks in braces; a line in place of another; a list in one sentence",
    "wind-sock": "before and after; with another pack only",
}


def main() -> None:
    first = tomllib.loads((FOLDER / "first_drafts.toml").read_text(encoding="utf-8"))
    later = {name: lot for lot, packs in first.items() for name in packs}
    rows, scores, took, unsure = [], {}, 0.0, 0
    for name in names():
        begun = time.perf_counter()
        draft = draft_of(name)
        took += time.perf_counter() - begun
        one = scores[name] = score(name, draft)
        unsure += sum(not draft.reason("hook", index).sure for index in range(len(draft.sheet.hook)))
        layout = right_sheet(name).pack.layouts[0]
        rows.append(
            f"| {name} | {layout} | {STYLES.get(name, '')} | {one.files_right} / {len(one.files_wrong)} / "
            f"{len(one.files_lacking)} | {one.right} / {len(one.wrong_sure)} / {len(one.wrong_unsure)} / "
            f"{len(one.lacking)} |"
        )
        for label, told in (("wrong", one.wrong_sure), ("wrong, marked", one.wrong_unsure), ("lacking", one.lacking)):
            for text in told:
                print(name, label, text)
    total = list(scores.values())
    lots = "\n".join(lot_row(lot, packs, [scores[name] for name in packs]) for lot, packs in first.items())
    own = [one for name, one in scores.items() if name not in later]
    precision = share(total, "right", "wrong_sure", "wrong_unsure")
    seats = f"{sum(s.seats_right for s in total)} of {sum(s.seats_of for s in total)}"
    marked = sum(len(s.wrong_unsure) for s in total)
    PAGE.write_text(
        f"""# How good drafts are

Written by `python benchmarks/drafts.py` on {platform.machine()}, Python {platform.python_version()}.
{len(total)} packs as people publish them (`tests/published`), over six layouts and one that a page
of ours writes, each with the right hook sheet written
by hand. An entry counts as right when it says the same at the same seat in the same language under the same condition.

| | files | entries |
|---|---|---|
| right | {sum(s.files_right for s in total)} | {sum(s.right for s in total)} |
| wrong and told as sure | {sum(len(s.files_wrong) for s in total)} | {sum(len(s.wrong_sure) for s in total)} |
| wrong and marked as unsure | | {marked} |
| lacking | {sum(len(s.files_lacking) for s in total)} | {sum(len(s.lacking) for s in total)} |
| precision | {share(total, "files_right", "files_wrong")} | {precision} |
| recall | {share(total, "files_right", "files_lacking")} | {share(total, "right", "lacking")} |
| seat right, of entries whose words are right | | {seats} |
| right, and still marked as unsure | | {unsure - marked} |

A draft takes {took / len(total):.2f} s on average, the reading of the map among it.

These figures are of packs that were all looked at while drafting was made better, by the hand that wrote them: they
show what is understood, not how often a stranger's notes are. Nearer to that come the very first drafts of packs that
were written after drafting was made (right / wrong and sure / wrong and marked / lacking):

| | first draft | now |
|---|---|---|
| while it was made, {len(own)} packs | | {figures(own)} |
{lots}

## Pack by pack

Files: right / wrong / lacking. Entries: right / wrong and sure / wrong and marked / lacking.

| pack | layout | what is hard about it | files | entries |
|---|---|---|---|---|
{chr(10).join(rows)}
""",
        encoding="utf-8",
    )
    print(PAGE.read_text(encoding="utf-8")[:2500])


def lot_row(lot: str, packs: dict[str, list[int]], now: list[Score]) -> str:
    then = " / ".join(str(sum(column)) for column in zip(*packs.values(), strict=True))
    return f"| the {lot.replace('-', ' ')}, {len(packs)} packs | {then} | {figures(now)} |"


def figures(scores: list[Score]) -> str:
    parts = ("right", "wrong_sure", "wrong_unsure", "lacking")
    return " / ".join(str(sum(count(getattr(one, part)) for one in scores)) for part in parts)


def count(value: int | tuple[str, ...]) -> int:
    return value if isinstance(value, int) else len(value)


def share(scores: list[Score], good: str, *bad: str) -> str:
    right = sum(count(getattr(one, good)) for one in scores)
    wrong = sum(count(getattr(one, part)) for one in scores for part in bad)
    return f"{100 * right / (right + wrong):.1f} %"


if __name__ == "__main__":
    main()
