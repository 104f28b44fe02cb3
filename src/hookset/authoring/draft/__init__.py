"""Draft a hook sheet for a pack that has none, from its notes and its contents."""

from hookset.authoring.draft.draft import Draft, Reason
from hookset.authoring.draft.drafter import drafted
from hookset.authoring.draft.guess import likeliest_site
from hookset.authoring.draft.inside import Inside, inside
from hookset.authoring.draft.sheet import sheet_text
from hookset.authoring.draft.site import Site

__all__ = ["Draft", "Inside", "Reason", "Site", "drafted", "inside", "likeliest_site", "sheet_text"]
