"""Floor 2: a tree of bytes by path (folder, zip, overlay), safe paths, and text with its encoding kept."""

from hookset.core.trees.content import Content, Inline, Member, digest_all, sha256_of
from hookset.core.trees.folder import FolderTree
from hookset.core.trees.globs import Glob, GlobMatch
from hookset.core.trees.overlay import Overlay
from hookset.core.trees.paths import joined, unsafe_reason
from hookset.core.trees.rezipped import Rezipped
from hookset.core.trees.text import Text, decode, line_and_column
from hookset.core.trees.tree import EmptyTree, Tree, spelled_otherwise
from hookset.core.trees.zipped import Limits, ZipTree, open_zip

__all__ = [
    "Content",
    "EmptyTree",
    "FolderTree",
    "Glob",
    "GlobMatch",
    "Inline",
    "Limits",
    "Member",
    "Overlay",
    "Rezipped",
    "Text",
    "Tree",
    "ZipTree",
    "decode",
    "digest_all",
    "joined",
    "line_and_column",
    "open_zip",
    "sha256_of",
    "spelled_otherwise",
    "unsafe_reason",
]
