"""One pair of columns as it is looked at: in which form, and by which groups."""

from dataclasses import dataclass

from culvix.caching import cached_property
from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.association.agreement import Concordance, LimitsOfAgreement, concordance, limits_of_agreement
from culvix.study.analysis.grouping import grouping
from culvix.study.relations.pair_analysis import PairAnalysis
from culvix.study.relations.pair_forms import PairForm, can_agree, pair_form
from culvix.study.relations.pair_groups import PairGroups, group_pair
from culvix.tables.model.table import Column

__all__ = ["PairDetails", "pair_details"]


@dataclass(frozen=True, eq=False)
class PairDetails:
    """A ``pair`` in a ``form``, with its ``groups`` where a column makes some."""

    pair: PairAnalysis
    form: PairForm
    groups: PairGroups | None = None
    note: str = ""
    """Why there are no groups though they were asked for."""

    confidence: float = 0.95

    @cached_property
    def agreement(self) -> tuple[LimitsOfAgreement, Concordance] | None:
        """How far both columns agree, where they may measure the same."""
        if not can_agree(self.pair):
            return None
        x, y = self.pair.view.x_values, self.pair.view.y_values
        limits = limits_of_agreement(x, y, within=self.confidence)
        found = concordance(x, y, confidence=self.confidence)
        return None if limits is None or found is None else (limits, found)

    def work_out(self, progress: Progress = silent) -> None:
        """Work out everything that takes long. Raises what ``progress`` raises."""
        self.pair.view.work_out(progress)
        # They are remembered.
        self.pair.suggestion  # noqa: B018
        progress(0.9, "drawing the form")
        for part in (self.form.view.smooth, self.form.view.line_without, self.form.cells, self.agreement):
            del part


def pair_details(
    pair: PairAnalysis, *, form: str = "values", by: Column | None = None, confidence: float = 0.95
) -> PairDetails:
    """``pair`` in a ``form`` of `PAIR_FORMS`, within the groups that ``by`` makes; may be done on any thread."""
    shown = pair_form(pair, form, confidence=confidence)
    # What a picture needs at once is worked out here.
    shown.extent  # noqa: B018
    if by is None or by.name in (pair.view.x, pair.view.y):
        return PairDetails(pair, shown, confidence=confidence)
    try:
        return PairDetails(pair, shown, group_pair(pair.view, grouping(by)), confidence=confidence)
    except CulvixError as error:
        return PairDetails(pair, shown, note=str(error), confidence=confidence)
