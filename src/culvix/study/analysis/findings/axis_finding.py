"""The finding that far values squeeze a column's picture, with the scale of the axis that would show it."""

import numpy as np

from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle, number, per_cent
from culvix.stats.shape.axis_scale import AXIS_SCALES
from culvix.stats.shape.long_tail import bulk, decades, squeezed, suggested_axis
from culvix.study.analysis.findings.findings import NO_ROWS, Question
from culvix.study.document.choices.settings import MEASURED, ColumnSettings
from culvix.tables.model.table import Role

__all__ = ["about_axis", "axis_asked_about"]

_PICTURED = (Role.MEASURE, Role.COUNT)


def axis_asked_about(role: Role, sample: Sample) -> str | None:
    """The scale of the axis that a column of ``role`` with such values in use is asked about, None where it is not."""
    return suggested_axis(sample) if role in _PICTURED else None


def about_axis(
    sample: Sample, suggested: str | None, chosen: ColumnSettings, style: NumberStyle
) -> tuple[Question, ...]:
    """What is asked about the axis, a scale being ``suggested`` of `axis_asked_about`; settled once one was chosen."""
    if suggested is None:
        return ()
    sentence, rows = _what_is_seen(sample, style)
    if chosen.axis_scale is None:
        question = f"{sentence} A {AXIS_SCALES[suggested].name} axis shows all of them."
    else:
        question = f"{sentence} Settled: the axis is {AXIS_SCALES[chosen.axis_scale].name}."
    others = tuple(key for key in (suggested, MEASURED) if key != chosen.axis_scale)
    resolved = chosen.axis_scale is not None
    return (Question("squeezed", question, rows, (), False, ruled=resolved, axis_scales=others),)


def _what_is_seen(sample: Sample, style: NumberStyle) -> tuple[str, np.ndarray]:
    """What a measured axis makes of the values, and the rows that squeeze it."""
    ends, x = bulk(sample), sample.sorted
    if ends is not None and squeezed(sample):
        low, high = ends
        share = (high / 2 - low / 2) / (float(x[-1]) / 2 - float(x[0]) / 2)
        between = f"{style.value(low)} to {style.value(high)}"
        outside = np.concatenate((sample.rows[: sample.below(low)], sample.rows[x.size - sample.above(high) :]))
        message = f"Nine in ten values, {between}, have {per_cent(share)} of the width of a measured axis."
        return message, np.sort(outside)
    factor = decades(sample) or 0.0
    return f"The values lie over {number(factor, 1)} powers of ten; a measured axis shows the largest.", NO_ROWS
