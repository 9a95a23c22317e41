"""The document: a table, settings, decisions, and the working set that follows from them. No interface."""

from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.document.settings import ColumnSettings, Settings
from culvix.study.study import Change, Study

__all__ = ["Cause", "Change", "ColumnSettings", "Decision", "DecisionKind", "Settings", "Study"]
