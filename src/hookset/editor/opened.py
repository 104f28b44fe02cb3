"""A map with files that are being edited: what is typed and not saved yet lies over what is on the disk."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from hookset.checks.watched import Watched, judged_again
from hookset.model import Finding
from hookset.project import MapProject
from hookset.symbols import Analysis, FactsCache
from hookset.symbols.cursor import WrittenName, text_in, written_names
from hookset.symbols.facts import FileFacts
from hookset.trees import Text

__all__ = ["OpenedMap", "edited"]


class OpenedMap(Struct, frozen=True, dict=True):
    """A map as it was judged last, with what is being typed."""

    watched: Watched
    unsaved: Mapping[str, bytes]
    """By path."""

    @property
    def project(self) -> MapProject:
        """The map's project."""
        return self.watched.project

    @property
    def analysis(self) -> Analysis:
        """The names of the map."""
        return self.watched.verdict.case.analysis

    @property
    def findings(self) -> tuple[Finding, ...]:
        """What is wrong."""
        return self.watched.summary.findings

    @cached_property
    def facts(self) -> Mapping[str, FileFacts]:
        """What each file says."""
        return {file.path: file for file in self.analysis.web.files}

    def text(self, path: str) -> Text | None:
        """A file as it is now, typed or saved; None for one that is no text of the map."""
        web = self.analysis.web
        return text_in(web.tree, web.layout, path)

    def names(self, path: str) -> tuple[WrittenName, ...]:
        """The names in a file, as it was judged last."""
        text, facts = self.text(path), self.facts.get(path)
        return written_names(text, self.project.layout, facts) if text is not None and facts is not None else ()


def edited(
    opened: OpenedMap, typed: Mapping[str, bytes], closed: Iterable[str] = (), cache: FactsCache | None = None
) -> OpenedMap:
    """The map once more, with what is `typed` now, and with files that were `closed` as they are on the disk."""
    gone = {*closed}
    unsaved = {path: data for path, data in {**opened.unsaved, **typed}.items() if path not in gone}
    watched, _ = judged_again(opened.watched, (*gone, *typed), cache, unsaved)
    return replace(opened, watched=watched, unsaved=unsaved)
