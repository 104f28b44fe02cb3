"""Commands and options that messages tell the builder to use are there."""

from __future__ import annotations

import ast
import re
import shlex
from collections.abc import Iterator
from pathlib import Path

import click
import pytest

from hookset.cli.main import cli
from tests.conftest import run_hookset
from tests.test_house import ROOT

SOURCE = ROOT / "src/hookset"
COMMAND = re.compile(r"`hookset ([^`]+)`|(?:^|[.:] )(?:Go on|Back|Set it in|Look into it): hookset ([^\n`]+)")
OPTION = re.compile(r"(?<![\w-])--[a-z][a-z-]+")


def texts(file: Path) -> Iterator[tuple[int, str]]:
    """Every text of a module that is not a docstring, with `X` where something is filled in."""
    tree = ast.parse(file.read_text(encoding="utf-8"))
    inner = {id(value) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for value in node.values}
    quiet = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            parts = (part.value if isinstance(part, ast.Constant) else "X" for part in node.values)
            yield node.lineno, "".join(map(str, parts))
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in inner | quiet:
            yield node.lineno, node.value


def commands(group: click.Command, front: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], click.Command]]:
    yield front, group
    if isinstance(group, click.Group):
        context = click.Context(group)
        for name in group.list_commands(context):
            found = group.get_command(context, name)
            assert found is not None
            yield from commands(found, (*front, name))


ALL = dict(commands(cli))
OPTIONS = {name for command in ALL.values() for one in command.params for name in (*one.opts, *one.secondary_opts)}
OPTIONS |= {"--help"}


@pytest.mark.no_cover
def test_what_is_printed_can_be_typed() -> None:
    wrong, looked = [], 0
    for file in sorted(SOURCE.rglob("*.py")):
        for line, text in texts(file):
            typed = [match[1] or match[2] for match in COMMAND.finditer(text)]
            wrong += [(file.name, line, one, why) for one in typed if (why := unusable(one))]
            wrong += [(file.name, line, one, "no such option") for one in set(OPTION.findall(text)) - OPTIONS]
            looked += len(typed)
    assert wrong == []
    assert looked > 40


def unusable(typed: str) -> str:
    """Why a command cannot be typed like that; empty where it can."""
    words = [word for word in shlex.split(typed.replace("…", "")) if word]
    known = {name for one in cli.params for name in one.opts}
    while words and words[0].startswith("-"):
        if words.pop(0) not in known:
            return "no such option before a command"
        words = words[1:]
    path: tuple[str, ...] = ()
    while words and (*path, words[0]) in ALL:
        path = (*path, words.pop(0))
    if not path:
        return "" if words in ([], ["X"]) else "no such command"
    options = {name for one in ALL[path].params for name in (*one.opts, *one.secondary_opts)} | {"--help"}
    wrong = [word for word in words if word.startswith("--") and word.partition("=")[0] not in options]
    return f"no such option: {wrong}" if wrong else ""


@pytest.mark.parametrize(
    ("typed", "meant"),
    [(["instal"], "install"), (["stock", "fnd"], "find"), (["install", "--previw", "x"], "--preview")],
)
def test_the_nearest_command_is_suggested(typed: list[str], meant: str, tmp_path: Path) -> None:
    ran = run_hookset(tmp_path, *typed)
    assert (ran.code, meant in ran.err) == (2, True)
