"""Methods and conventions that were used, with their sources: as a paragraph for a paper, and as a table."""

from collections.abc import Iterator

from culvix.report.context import ReportContext
from culvix.report.parts import Head, Paragraph, Part, TableBlock, Text
from culvix.stats.core.quantiles import QUANTILE_TYPES
from culvix.stats.registry import CORRELATION_KINDS, GROUP_TESTS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study.relations.ranking import RANKING, Relations
from culvix.version import VERSION

__all__ = ["methods"]


def methods(context: ReportContext, level: str) -> Iterator[Part]:
    """The paragraph, and a row for each method whose figures stand in this report."""
    yield Paragraph((_paragraph(context),))
    if level == "line":
        return
    rows: list[tuple[Text, ...]] = [((name,), (tells,), (source,)) for name, tells, source in _used(context)]
    if rows:
        heads = (Head("Method"), Head("What it tells"), Head("Source"))
        yield TableBlock("Methods used", heads, tuple(rows), wide=(1, 2))


def _tests(context: ReportContext) -> list[str]:
    """Keys of the tests that verdicts rest on, in the order of the registry."""
    used = {each.verdict.method for each in context.analyses.values() if each.verdict.rejects is not None}
    return [key for key in NORMALITY_TESTS if key in used]


def _flagging(context: ReportContext) -> list[str]:
    """Keys of the outlier methods whose flags count in any column."""
    used = {key for each in context.analyses.values() for key, found in each.flags.results.items() if found.applies}
    return [key for key in OUTLIER_METHODS if key in used]


def _of_groups(context: ReportContext) -> list[str]:
    """Keys of the tests of the comparisons in the report, in the order of the registry."""
    if any(choice.key == "groups" and not choice.shown for choice in context.layout.sections):
        return []
    compared = [found.comparison for _, found in context.comparisons if not isinstance(found, str)]
    used = {each.chosen.key for each in compared if each is not None}
    return [key for key in GROUP_TESTS if key in used]


def _used(context: ReportContext) -> Iterator[tuple[str, str, str]]:
    for key in _tests(context):
        yield NORMALITY_TESTS[key].name, NORMALITY_TESTS[key].tells, NORMALITY_TESTS[key].source
    for key in _flagging(context):
        yield OUTLIER_METHODS[key].name, OUTLIER_METHODS[key].tells, OUTLIER_METHODS[key].source
    if isinstance(context.relations, Relations) and context.relations.pairs:
        for key in RANKING:
            yield CORRELATION_KINDS[key].name, CORRELATION_KINDS[key].tells, CORRELATION_KINDS[key].source
    for key in _of_groups(context):
        yield GROUP_TESTS[key].name, GROUP_TESTS[key].tells, GROUP_TESTS[key].source


def _limit(context: ReportContext, key: str) -> str:
    method, settings = OUTLIER_METHODS[key], context.workspace.settings
    limit = "" if method.limit is None else f"limit {settings.limits[key]:g} {method.limit.name}; "
    return f"{method.name} ({limit}{method.source})"


def _paragraph(context: ReportContext) -> str:
    """What a paper would say of the methods."""
    settings = context.workspace.settings
    sentences = [
        f"Figures were computed with Culvix {VERSION}.",
        f"Quartiles and percentiles: {QUANTILE_TYPES[settings.quantile_type]}; SD with n − 1 in the denominator; "
        "skewness and excess kurtosis as G1 and G2, adjusted for n (Joanes & Gill 1998).",
        f"Intervals have a confidence of {100 * settings.confidence:g} %, tests a level of {settings.alpha:g}.",
    ]
    tests = [f"{NORMALITY_TESTS[key].name} ({NORMALITY_TESTS[key].source})" for key in _tests(context)]
    if tests:
        sentences.append(f"Normality was judged by {_listed(tests)}, beside the normal quantile plot.")
    flagging = [_limit(context, key) for key in _flagging(context)]
    if flagging:
        own = [name for name, chosen in settings.columns.items() if chosen.limits]
        other = f" Limits of their own: {', '.join(own)}." if own else ""
        sentences.append(f"Values were flagged by {_listed(flagging)}.{other}")
    if isinstance(context.relations, Relations) and context.relations.pairs:
        by = context.relations.matrices
        kinds = [f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}" for key in by]
        sentences.append(f"Pairs of columns were ranked by {_listed(kinds)}, each over the rows that hold both values.")
    of_groups = [f"{GROUP_TESTS[key].name} ({GROUP_TESTS[key].source})" for key in _of_groups(context)]
    if of_groups:
        sentences.append(f"Groups were compared by {_listed(of_groups)}, chosen by their number, sizes and spreads.")
    return " ".join(sentences)


def _listed(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
