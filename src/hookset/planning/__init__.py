"""Plan a change to a map as a value: what each operation would do, and what a check would say afterwards."""

from hookset.planning.choices import Answers, Choices, Question, answered, answers_of
from hookset.planning.diffs import FileDiff, adapted_diffs, text_diffs
from hookset.planning.operations.install import plan_install, plan_upgrade
from hookset.planning.operations.mend import MendPlan, plan_mend
from hookset.planning.operations.remove import map_without, plan_remove
from hookset.planning.operations.undo import UndoPlan, plan_redo, plan_undo
from hookset.planning.plan import FileState, FileStep, HookState, HookStep, PackPlan, Plan, Stop, ValueStep
from hookset.planning.preview import findings_beyond, new_findings
from hookset.planning.queries.conflicts import conflicts
from hookset.planning.queries.needs import NeedState, needs_state
from hookset.planning.queries.outlook import MapNow, Outlook, map_now, outlook

__all__ = [
    "Answers",
    "Choices",
    "FileDiff",
    "FileState",
    "FileStep",
    "HookState",
    "HookStep",
    "MapNow",
    "MendPlan",
    "NeedState",
    "Outlook",
    "PackPlan",
    "Plan",
    "Question",
    "Stop",
    "UndoPlan",
    "ValueStep",
    "adapted_diffs",
    "answered",
    "answers_of",
    "conflicts",
    "findings_beyond",
    "map_now",
    "map_without",
    "needs_state",
    "new_findings",
    "outlook",
    "plan_install",
    "plan_mend",
    "plan_redo",
    "plan_remove",
    "plan_undo",
    "plan_upgrade",
    "text_diffs",
]
