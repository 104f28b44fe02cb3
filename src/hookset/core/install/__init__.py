"""Floor 11: plan a change as a pure value, show it, judge what it would leave, write it, take it back."""

from hookset.core.install.apply import (
    Disk,
    Entry,
    Recovery,
    apply_changes,
    history,
    locked,
    recover,
    standing,
)
from hookset.core.install.planned.change import Change, changed_tree, on_disk
from hookset.core.install.planned.choices import Answers, Choices, Question, answered, answers_of
from hookset.core.install.planned.plan import FileState, FileStep, HookState, HookStep, PackPlan, Plan, Stop, ValueStep
from hookset.core.install.planned.preview import FileDiff, adapted_diffs, new_findings, text_diffs
from hookset.core.install.seen.conflicts import conflicts
from hookset.core.install.seen.needs import NeedState, needs_state
from hookset.core.install.seen.outlook import Outlook, outlook
from hookset.core.install.ways.mending import MendPlan, plan_mend
from hookset.core.install.ways.planning import plan_install, plan_upgrade
from hookset.core.install.ways.removing import plan_remove
from hookset.core.install.ways.undo import UndoPlan, plan_redo, plan_undo

__all__ = [
    "Answers",
    "Change",
    "Choices",
    "Disk",
    "Entry",
    "FileDiff",
    "FileState",
    "FileStep",
    "HookState",
    "HookStep",
    "MendPlan",
    "NeedState",
    "Outlook",
    "PackPlan",
    "Plan",
    "Question",
    "Recovery",
    "Stop",
    "UndoPlan",
    "ValueStep",
    "adapted_diffs",
    "answered",
    "answers_of",
    "apply_changes",
    "changed_tree",
    "conflicts",
    "history",
    "locked",
    "needs_state",
    "new_findings",
    "on_disk",
    "outlook",
    "plan_install",
    "plan_mend",
    "plan_redo",
    "plan_remove",
    "plan_undo",
    "plan_upgrade",
    "recover",
    "standing",
    "text_diffs",
]
