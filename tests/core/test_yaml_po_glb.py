"""YAML, PO catalogues and binary glTF."""

from __future__ import annotations

import json
import struct
from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from hookset.formats import Body, Clash, Edits, Unreadable, format_named, format_names, spliced
from hookset.formats.document import placement_at
from hookset.trees import Text
from tests.core.test_formats import NAMES, NEWLINES, SCALARS, done, opened, put
from tests.core.test_more_formats import values

HERON = """\
# one heron
name: Heron   # of the fen
parts:
- model: heron.gltf
  skin: "heron.png"
- model: nest.gltf
sounds: {cry: cry.wav, flap: [a.wav, b.wav]}
deep:
    er:
        - one
        - two
# the end
"""


def test_yaml_values_and_places() -> None:
    assert values("yaml", HERON, {"at": "$.parts[*].model"}) == ["heron.gltf", "nest.gltf"]
    document = opened("yaml", HERON)
    spans = document.spans(["/parts/0/skin", "/sounds/flap/1", "/name", "/deep/er"])
    assert {where: HERON[slice(*span)] for where, span in spans.items()} == {
        "/parts/0/skin": '"heron.png"',
        "/sounds/flap/1": "b.wav",
        "/name": "Heron",
        "/deep/er": "- one\n        - two",
    }
    assert values("yaml", "ü: ä\nb: ö\n", {"at": "$.*"}) == ["ä", "ö"]


@pytest.mark.parametrize(
    ("seat", "record", "old", "new"),
    [
        (
            {"into": "/parts"},
            {"model": "egg.gltf", "size": 1},
            "nest.gltf\n",
            "nest.gltf\n- model: egg.gltf\n  size: 1\n",
        ),
        ({"into": "/parts", "at": "start"}, {"model": "x"}, "parts:\n", "parts:\n- model: x\n"),
        ({"into": "", "form": "keys"}, {"size": 2}, "- two\n", "- two\nsize: 2\n"),
        ({"into": "/sounds", "form": "keys"}, {"nest": "n.wav"}, "b.wav]}", "b.wav], nest: n.wav}"),
        ({"into": "/parts/0", "form": "keys"}, {"on": "yes"}, '"heron.png"\n', '"heron.png"\n  "on": "yes"\n'),
        ({"into": "/deep", "form": "keys"}, {"x": [1, "a"]}, "- two\n", "- two\n    x: [1, a]\n"),
        ({"into": "/new"}, {"a": 1}, "# the end\n", "# the end\nnew:\n    - a: 1\n"),
    ],
)
def test_yaml_entries_stand_where_their_neighbours_do(
    seat: dict[str, Any], record: dict[str, Any], old: str, new: str
) -> None:
    after = done("yaml", HERON, seat, Body(record=record))
    assert after == HERON.replace(old, new)
    yaml.safe_load(after)


@given(
    st.lists(st.dictionaries(NAMES, SCALARS, min_size=1, max_size=3), min_size=1, max_size=3),
    st.dictionaries(NAMES, SCALARS, min_size=1, max_size=3),
    NEWLINES,
)
def test_yaml_rows_are_added(rows: list[dict[str, Any]], record: dict[str, Any], newline: str) -> None:
    if record in rows:
        return
    string = yaml.safe_dump({"a": 1, "rows": rows, "z": {"k": "v"}}, allow_unicode=True, sort_keys=False).replace(
        "\n", newline
    )
    if yaml.safe_load(string) != {"a": 1, "rows": rows, "z": {"k": "v"}}:
        return
    after = done("yaml", string, {"into": "/rows"}, Body(record=record))
    assert yaml.safe_load(after) == {"a": 1, "rows": [*rows, record], "z": {"k": "v"}}


@pytest.mark.parametrize(
    ("string", "words"),
    [
        ("a: [1, 2\nb: 3", "is not YAML"),
        ("a: b: c", "is not YAML"),
        ("x: *nothing", "nothing above is called"),
        ("x: &x [1, *x]", "within what it stands for"),
        ("- " * 30_000 + "x", "nested too deeply"),
        ("? [a, b]\n: c", "more than a text for a key"),
        ("a: 1\n---\na: 2\n", "holds several documents"),
        ("[" * 10_000, "nested too deeply"),
        (
            "a: &a [1,1,1,1,1,1,1,1,1,1]\n"
            + "".join(f"{chr(98 + n)}: &{chr(98 + n)} [{', '.join(['*' + chr(97 + n)] * 10)}]\n" for n in range(9)),
            "grows beyond",
        ),
    ],
)
def test_yaml_damage_and_bombs(string: str, words: str) -> None:
    with pytest.raises(Unreadable, match=words):
        opened("yaml", string)


PO = """# English
msgid ""
msgstr "Content-Type: text/plain; charset=UTF-8\\n"

#: quay.js:3
msgid "quay.bell"
msgstr "Ring the "
"bell"

msgid "quay.later"
msgstr ""

#~ msgid "gone"
#~ msgstr "Gone"
"""


def test_po_ids_places_and_entries() -> None:
    assert values("po", PO, {}) == ["quay.bell"]
    assert values("po", PO, {"untranslated": True}) == ["quay.bell", "quay.later"]
    after = done("po", PO, {}, Body(record={"a": 'x "y"\n'}))
    assert after == PO + '\nmsgid "a"\nmsgstr "x \\"y\\"\\n"\n'
    assert isinstance(put("po", PO, {}, Body(record={"quay.bell": "x"})), Clash)
    assert format_named("po").declared_encoding(b'"charset=ISO-8859-1\\n"') == "ISO-8859-1"
    with pytest.raises(Unreadable, match="neither an entry nor a comment"):
        opened("po", "msgid quay\n")


def glb(document: bytes, length: int | None = None) -> bytes:
    body = document + b" " * (-len(document) % 4)
    return (
        struct.pack("<4sIIII", b"glTF", 2, (20 + len(body)) if length is None else length, len(body), 0x4E4F534A) + body
    )


def test_glb_is_read_like_json() -> None:
    form = format_named("glb")
    document = form.open(glb(json.dumps({"images": [{"uri": "a.png"}]}).encode()), form.options())
    assert [value.text for value in document.select(form.selector(at="$.images[*].uri"))] == ["a.png"]
    for data in (b"", b"glTF", glb(b"{}", 9_000), glb(b"{"), b"glTF" + struct.pack("<IIII", 1, 20, 0, 0x4E4F534A)):
        with pytest.raises(Unreadable):
            form.open(data, form.options())


def test_other_packages_can_add_formats(monkeypatch: pytest.MonkeyPatch) -> None:
    class Point:
        name = "runes"

        def load(self) -> object:
            return format_named("lines")

    def entry_points(*, group: str, name: str = "runes") -> list[Point]:
        return [Point()] if group == "hookset.formats" and name == "runes" else []

    monkeypatch.setattr("importlib.metadata.entry_points", entry_points)
    assert "runes" in format_names()
    assert format_named("runes") is format_named("lines")
    format_named.cache_clear()


def test_yaml_as_games_write_it() -> None:
    """Tags of their own, keys that look like numbers or words, what one thing takes over from another."""
    string = "!thing\n1: !bell { size: 0x10 }\nyes: &on { loud: true }\ntide:\n  <<: *on\n  when: 2001-01-01\n"
    seen = {
        value.text: value.where for value in opened("yaml", string).select(format_named("yaml").selector(leaves="$"))
    }
    assert list(seen) == ["1.size", "yes.loud", "tide.loud", "tide.when"]
    assert [v.text for v in opened("yaml", string).select(format_named("yaml").selector(at="$.*.*"))] == [
        "16",
        "2001-01-01",
    ]


def test_yaml_keys_given_twice_are_two_definitions() -> None:
    names = opened("yaml", "a: 1\nb: {c: 1, c: 2}\na: 3\n").select(format_named("yaml").selector(leaves="$"))
    assert sorted(value.text for value in names) == ["a", "a", "b.c", "b.c"]


def test_yaml_of_several_documents_is_a_list() -> None:
    string = "%YAML 1.1\n--- !u!1 &1\nkey: a\n--- !u!4 &2\nkey: b\n...\n".replace("!u", "")
    document = format_named("yaml").open(Text(string, "utf-8"), format_named("yaml").options(documents=True))
    assert [value.text for value in document.select(format_named("yaml").selector(at="$[*].key"))] == ["a", "b"]
    placement = placement_at(document, format_named("yaml").seat(into="/1", form="keys"), Body(record={"more": 1}))
    assert isinstance(placement, Edits)
    assert spliced(string, placement.edits).endswith("key: b\nmore: 1\n...\n")
