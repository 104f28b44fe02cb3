"""Draft a hook sheet for a pack that has none, from its notes and its contents."""

from hookset.authoring.draft.carrying import carried_over
from hookset.authoring.draft.deciding import with_mark
from hookset.authoring.draft.decisions import Decision, Mark, Walk, read_decision, read_walk, walk_text
from hookset.authoring.draft.draft import Draft, Reason
from hookset.authoring.draft.drafter import drafted
from hookset.authoring.draft.earlier import earlier_version
from hookset.authoring.draft.guess import likeliest_site
from hookset.authoring.draft.inside import Inside, inside
from hookset.authoring.draft.sheet import entry_text, sheet_text
from hookset.authoring.draft.site import Site
from hookset.authoring.draft.steps import Step, seats_of, steps_of

__all__ = [
    "Decision",
    "Draft",
    "Inside",
    "Mark",
    "Reason",
    "Site",
    "Step",
    "Walk",
    "carried_over",
    "drafted",
    "earlier_version",
    "entry_text",
    "inside",
    "likeliest_site",
    "read_decision",
    "read_walk",
    "seats_of",
    "sheet_text",
    "steps_of",
    "walk_text",
    "with_mark",
]
