"""The forms of a built map, one in each module: a zip, a tar, a folder."""

from __future__ import annotations

from hookset.building.forms.folder import FOLDER
from hookset.building.forms.form import ArchiveForm
from hookset.building.forms.tarred import TAR
from hookset.building.forms.zipped import ZIP, zip_tree

__all__ = ["ArchiveForm", "form_named", "zip_tree"]

_FORMS: dict[str, ArchiveForm] = {"zip": ZIP, "tar": TAR, "folder": FOLDER}


def form_named(name: str) -> ArchiveForm:
    """The form of a name that a layout can say."""
    return _FORMS[name]
