"""A tree of bytes by path (folder, zip, overlay), safe paths, and text that keeps its encoding."""

from hookset.trees.archives import (
    Limits,
    NestedTree,
    SlicedTree,
    ZipTree,
    is_archive,
    look_inside,
    open_archive,
    open_zip,
)
from hookset.trees.content import Content, Inline, Member, digest_all, sha256_of
from hookset.trees.folder import FolderTree
from hookset.trees.globs import Glob, GlobMatch, Globs
from hookset.trees.overlay import Overlay
from hookset.trees.paths import joined, unsafe_reason
from hookset.trees.patterns import Pattern, SlowPatternError, pattern_of
from hookset.trees.prefixed import PrefixedTree
from hookset.trees.regular import open_regular, read_regular
from hookset.trees.renamed import RenamedTree
from hookset.trees.rezipped import Rezipped
from hookset.trees.text import Text, decode, excerpt, known_encoding, line_and_column, lines_and_columns
from hookset.trees.tree import EmptyTree, Tree, spelled_otherwise

__all__ = [
    "Content",
    "EmptyTree",
    "FolderTree",
    "Glob",
    "GlobMatch",
    "Globs",
    "Inline",
    "Limits",
    "Member",
    "NestedTree",
    "Overlay",
    "Pattern",
    "PrefixedTree",
    "RenamedTree",
    "Rezipped",
    "SlicedTree",
    "SlowPatternError",
    "Text",
    "Tree",
    "ZipTree",
    "decode",
    "digest_all",
    "excerpt",
    "is_archive",
    "joined",
    "known_encoding",
    "line_and_column",
    "lines_and_columns",
    "look_inside",
    "open_archive",
    "open_regular",
    "open_zip",
    "pattern_of",
    "read_regular",
    "sha256_of",
    "spelled_otherwise",
    "unsafe_reason",
]
