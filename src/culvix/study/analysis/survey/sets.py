"""Sets of statistics that a survey offers: what is looked at together."""

from culvix.study.analysis.survey.survey import default_fields, survey_fields

__all__ = ["statistic_sets"]

_SETS: dict[str, tuple[str, ...]] = {
    "completeness": ("role", "findings", "n", "missing", "missing_share", "unread", "zeros_share", "distinct"),
    "centre and spread": ("unit", "n", "mean", "median", "trimmed_mean", "sd", "iqr", "mad_scaled", "cv"),
    "five numbers": ("unit", "n", "min", "q1", "median", "q3", "max", "range", "iqr"),
    "shape": (
        *("n", "skewness", "excess_kurtosis", "l_skewness", "l_kurtosis", "qq_correlation", "verdict"),
        *("flags", "findings"),
    ),
    "review": ("role", "findings", "flags", "verdict", "reviewed"),
}


def statistic_sets() -> dict[str, tuple[str, ...]]:
    """Keys of statistics by the name of their set; the first is what is shown unasked, the last everything."""
    return {"usual": default_fields(), **_SETS, "every statistic": tuple(survey_fields())}
