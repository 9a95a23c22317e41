"""Studies: a document, its history, and all that follows from it and its table. No interface."""

from culvix.study.changes import Change
from culvix.study.document.choices.settings import ColumnSettings, Settings
from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.study import Study

__all__ = ["Cause", "Change", "ColumnSettings", "Decision", "DecisionKind", "Settings", "Study"]
