"""Bins set by hand that a later decision makes impossible."""

from culvix.study import Study
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.document.decisions import DecisionKind


def test_they_give_way_to_the_rule_and_say_so(study: Study) -> None:
    study.change_settings(study.settings.with_column("length_mm", ColumnSettings(bin_width=1.0)))
    assert study.workspace.analysis("length_mm").histogram.rule == "chosen width"
    study.decide(DecisionKind.CORRECT, "length_mm", [0], value=1e6)
    bars = study.workspace.analysis("length_mm").histogram
    assert bars.rule != "chosen width" and "more than 2000 bins" in bars.note
    assert bars.n == study.workspace.analysis("length_mm").sample.n
    study.undo()
    assert study.workspace.analysis("length_mm").histogram.width == 1.0
