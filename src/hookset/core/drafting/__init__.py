"""Floor 12: drafting: a hook sheet for a pack that came without one, from its notes and from what is in it."""

from hookset.core.drafting.draft import Draft, Reason
from hookset.core.drafting.drafting import drafted
from hookset.core.drafting.guess import likeliest_site
from hookset.core.drafting.inside import Inside, inside
from hookset.core.drafting.sheet import sheet_text
from hookset.core.drafting.site import Site

__all__ = ["Draft", "Inside", "Reason", "Site", "drafted", "inside", "likeliest_site", "sheet_text"]
