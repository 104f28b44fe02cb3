"""Archives as trees, opened as if their maker wished us harm: zip, tar (packed or not), 7z, and archives in them."""

from hookset.trees.archives.judging import Limits
from hookset.trees.archives.nested import NestedTree
from hookset.trees.archives.opening import is_archive, look_inside, open_archive
from hookset.trees.archives.sliced import SlicedTree
from hookset.trees.archives.zipped import ZipTree, open_zip

__all__ = ["Limits", "NestedTree", "SlicedTree", "ZipTree", "is_archive", "look_inside", "open_archive", "open_zip"]
