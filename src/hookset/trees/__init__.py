"""A tree of bytes by path (folder, zip, overlay), safe paths, and text that keeps its encoding."""

from hookset.trees.content import Content, Inline, Member, digest_all, sha256_of
from hookset.trees.folder import FolderTree
from hookset.trees.globs import Glob, GlobMatch, Globs
from hookset.trees.overlay import Overlay
from hookset.trees.paths import joined, unsafe_among, unsafe_reason
from hookset.trees.patterns import Pattern, SlowPatternError, pattern_of
from hookset.trees.prefixed import PrefixedTree
from hookset.trees.regular import open_regular, read_regular
from hookset.trees.renamed import RenamedTree
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
    "Member",
    "Overlay",
    "Pattern",
    "PrefixedTree",
    "RenamedTree",
    "SlowPatternError",
    "Text",
    "Tree",
    "decode",
    "digest_all",
    "excerpt",
    "joined",
    "known_encoding",
    "line_and_column",
    "lines_and_columns",
    "open_regular",
    "pattern_of",
    "read_regular",
    "sha256_of",
    "spelled_otherwise",
    "unsafe_among",
    "unsafe_reason",
]
