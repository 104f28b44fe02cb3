"""The work itself: read, plan, judge, write. No interface code."""
