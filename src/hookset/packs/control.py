"""Files that other programs obey without being asked: a pack has no business bringing them."""

from __future__ import annotations

import re

from hookset.project import is_ours

__all__ = ["control_reason"]

_NAMES = frozenset(
    [
        "makefile", "gnumakefile", "cmakelists.txt", "justfile", "dockerfile", "rakefile", "sconstruct",
        "autorun.inf", "desktop.ini", "folder.htt", "conftest.py", "sitecustomize.py", "package.json",
    ]
)  # fmt: skip
_ENDINGS = re.compile(r"\.(?:desktop|directory|lnk|url|scf|pif|code-workspace|sublime-project|mk)$")


def control_reason(path: str) -> str:
    """What kind of control file a path of the map names, with its article; empty for any other.

    Files and folders that begin with a dot are how version control, editors and shells are told what to run.
    """
    folded = path.casefold()
    parts = folded.split("/")
    if is_ours(path):
        return "a file of Hook Set's own"
    if any(part.startswith(".") for part in parts[:-1]):
        return "in a hidden folder"
    if parts[-1].startswith("."):
        return "a hidden file"
    if parts[-1] in _NAMES or parts[-1] == "hookset.toml":
        return "a file that other programs run or obey"
    return "a file that opens or runs something else" if _ENDINGS.search(parts[-1]) else ""
