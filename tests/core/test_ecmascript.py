"""ECMAScript modules: what a script means, and where statements are set."""

from __future__ import annotations

import pytest

from hookset.formats import AlreadyThere, Body, format_named
from tests.core.test_formats import done, opened, put

IMPORT = {"after": "last"}
START = {"inside": "function start", "at": "end"}


def called(source: str, name: str = "f", arg: int = 1) -> list[tuple[str, bool]]:
    selector = format_named("ecmascript").selector(call=name, arg=arg)
    return [(value.text, value.pattern) for value in opened("ecmascript", source).select(selector)]


@pytest.mark.parametrize(
    ("source", "values"),
    [
        pytest.param("f(\"a\"); f('b')", [("a", False), ("b", False)], id="plain"),
        pytest.param(r'f("a\"\x41\u0042\u{43}\n")', [('a"ABC\n', False)], id="escapes"),
        pytest.param("f(`a`)", [("a", False)], id="template"),
        pytest.param("f(`a_${n}_b`)", [("a_*_b", True)], id="template-with-a-fixed-part"),
        pytest.param('const N = "x"; f(`a_${N}`)', [("a_x", False)], id="template-of-a-constant"),
        pytest.param('f("a" + n)', [("a*", True)], id="fixed-part"),
        pytest.param('const N = "a"\nf(N)', [("a", False)], id="constant"),
        pytest.param('const S = { horn: "a", "b-c": "d" };\nf(S.horn)', [("a", False)], id="member"),
        pytest.param('const S = Object.freeze({ horn: "a" });\nf(S.horn)', [("a", False)], id="frozen-member"),
        pytest.param('let N = "a"; N = "b"; f(N)', [("*", True)], id="set-twice"),
        pytest.param('const N = "a"; function g(N) { f(N) }', [("*", True)], id="parameter"),
        pytest.param('import { N } from "./n.js"; f(N)', [("*", True)], id="from-another-module"),
        pytest.param(
            'f(c ? "a" : "b"); f(x || "c")', [("a", False), ("b", False), ("*", True), ("c", False)], id="choices"
        ),
        pytest.param('// f("a")\n/* f("b") */ g("f(\'c\')")', [], id="comments-and-strings"),
        pytest.param('o.f("a")', [], id="somebody-else's"),
        pytest.param("f(null); f()", [], id="nothing"),
    ],
)
def test_what_a_call_is_given(source: str, values: list[tuple[str, bool]]) -> None:
    assert called(source) == values


def test_imports_functions_and_assignments() -> None:
    source = 'import a from "./a.js";\nimport "./b.js";\nexport function start() {}\nconst go = () => 1;\nclass X { turn() {} }\nTOLL = 5;\n'
    document, form = opened("ecmascript", source), format_named("ecmascript")
    assert [v.text for v in document.select(form.selector(imports=True))] == ["./a.js", "./b.js"]
    assert [v.text for v in document.select(form.selector(function="*"))] == ["start", "go", "turn"]
    assert [v.text for v in document.select(form.selector(assign="TOLL"))] == ["5"]
    assert "does not parse as ECMAScript" in opened("ecmascript", "function (").problems[0][0]


HOOK = 'import { bridge } from "./bridge.js";'


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ('import a from "./a.js";\n\nrun();\n', f'import a from "./a.js";\n{HOOK}\n\nrun();\n'),
        ('import a from "./a.js"; // why\r\nrun();\r\n', f'import a from "./a.js"; // why\r\n{HOOK}\r\nrun();\r\n'),
        ("/* head */\n// more\n\nrun();\n", f"/* head */\n// more\n{HOOK}\n\nrun();\n"),
        ("", f"{HOOK}\n"),
    ],
)
def test_imports_go_under_the_last_one(before: str, after: str) -> None:
    assert done("ecmascript", before, IMPORT, Body(text=HOOK)) == after


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("function start() {\n\ta();\n}\n", "function start() {\n\ta();\n\tb();\n}\n"),
        (
            "export function start() {\n    a();\n    return 1;\n}\n",
            "export function start() {\n    a();\n    b();\n    return 1;\n}\n",
        ),
        ("const start = () => {\n};\n", "const start = () => {\n  b();\n};\n"),
        ("function start() { }", "function start() {\n  b();\n}"),
    ],
)
def test_calls_go_to_the_end_of_the_function(before: str, after: str) -> None:
    assert done("ecmascript", before, START, Body(text="b();")) == after


def test_another_spelling_counts_as_there() -> None:
    assert isinstance(put("ecmascript", "import {bridge} from './bridge.js'", IMPORT, Body(text=HOOK)), AlreadyThere)
    assert HOOK in done("ecmascript", f"// {HOOK}\n", IMPORT, Body(text=HOOK)).splitlines()
