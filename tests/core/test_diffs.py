"""What a plan shows of a long file: a diff that makes the one state of the other, whatever has changed."""

from __future__ import annotations

import re

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hookset.planning import diffs

HUNK = re.compile(r"@@ -(\d+)(?:,(\d+))? \+(\d+)(?:,(\d+))? @@")
LINES = st.lists(st.sampled_from(["a", "b", "c", "<yard/>", ""]), max_size=40)


def patched(one: list[str], diff: tuple[str, ...]) -> list[str]:
    """What a diff makes of some lines; each line that it shows must be there."""
    found: list[str] = []
    at = 0
    for line in diff[2:]:
        if head := HUNK.fullmatch(line):
            start = int(head[1]) - (head[2] != "0")
            assert start >= at, "stretches overlap"
            found += one[at:start]
            at = start
            assert int(head[3]) - (head[4] != "0") == len(found)
        elif line[:1] == "+":
            found.append(line[1:])
        else:
            assert one[at] == line[1:]
            found += [line[1:]] if line[:1] == " " else []
            at += 1
    return found + one[at:]


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(LINES, st.lists(st.tuples(st.integers(0, 40), st.integers(0, 3), LINES), max_size=4), st.integers(1, 3))
def test_a_diff_makes_the_one_of_the_other(
    monkeypatch: pytest.MonkeyPatch, base: list[str], changes: list[tuple[int, int, list[str]]], times: int
) -> None:
    monkeypatch.setattr(diffs, "_LONG", 0)
    monkeypatch.setattr(diffs, "_MOST", 3)
    one = [f"{line}{number % 7}" for number, line in enumerate(base * times)]
    other = list(one)
    for at, gone, new in changes:
        other[at : at + gone] = new
    diff = diffs.diff_of("a.txt", "\n".join(one).encode(), "\n".join(other).encode())
    assert patched("\n".join(one).splitlines(), diff) == "\n".join(other).splitlines()


def test_only_what_is_around_a_change_is_shown() -> None:
    one = [f"line {number}" for number in range(9_000)]
    other = [*one[:100], "new", *one[100:5_000], *one[5_003:8_999], "last", "one"]
    diff = diffs.diff_of("a.txt", "\n".join(one).encode(), "\n".join(other).encode())
    assert [line for line in diff if line.startswith("@@")] == [
        "@@ -99,4 +99,5 @@", "@@ -4999,7 +5000,4 @@", "@@ -8998,3 +8996,4 @@"
    ]  # fmt: skip
    assert patched(one, diff) == other
    assert diffs.diff_of("a.txt", b"a\n" * 5_000, b"a\n" * 5_000) == ()
