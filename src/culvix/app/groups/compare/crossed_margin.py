"""How far two categories go together, and by which test."""

from culvix.app.groups.text_margin import TextMargin
from culvix.app.widgets.parts import label, row_of
from culvix.stats.association.contingency_tests import CountTest, Ratio
from culvix.stats.display import number, p_value, per_cent, significant
from culvix.study.groups.crossed import CrossedCategories

__all__ = ["CrossedMargin"]

_RATIOS = {"odds_ratio": "odds ratio", "risk_ratio": "risk ratio"}


class CrossedMargin(TextMargin):
    """Shows a `CrossedCategories` in words and numbers."""

    def show_crossed(self, found: CrossedCategories) -> None:
        """Tell of ``found``."""
        self.clear()
        self.body.addWidget(label(f"{found.down.by} and {found.across.by}", "head", wrap=True))
        strength = found.strength
        if strength.value is not None:
            self.body.addLayout(row_of(label("Cramér's V"), 1, label(number(strength.value, 3), "head")))
            self.body.addWidget(label("its bias taken out; 0 for no relation, 1 for the closest", "quiet", wrap=True))
        for ratio in found.ratios:
            self._ratio(ratio, found)
        self.body.addSpacing(4)
        self.body.addWidget(label(_test(found.test), "head", wrap=True))
        if found.test.p_by:
            self.body.addWidget(label(f"p by {found.test.p_by}", "quiet", wrap=True))
        if found.why:
            self.body.addWidget(label(found.why, "quiet", wrap=True))
        if found.exact is not None:
            self.body.addWidget(label(f"Not read here: {_test(found.chi_square)}", "quiet", wrap=True))
        if found.paired_test is not None:
            words = "Taken as two answers of the same rows, whether one turns into the other as often as back: "
            self.body.addWidget(label(words + _test(found.paired_test), wrap=True))

    def _ratio(self, ratio: Ratio, found: CrossedCategories) -> None:
        value = "—" if ratio.value is None else significant(ratio.value)
        self.body.addLayout(row_of(label(_RATIOS[ratio.key]), 1, label(value, "head")))
        if ratio.low is not None and ratio.high is not None:
            ends = f"{significant(ratio.low)} to {significant(ratio.high)}"
            self.body.addWidget(label(f"{per_cent(ratio.confidence, 0)} interval {ends}", "quiet", wrap=True))
        elif ratio.note:
            self.body.addWidget(label(ratio.note, "quiet", wrap=True))
        first, last = found.across.names[0], found.down.names
        self.body.addWidget(label(f"of {first}, {last[0]} against {last[1]}", "quiet", wrap=True))


_NAMES = {"chi_square": "χ²", "fisher_exact": "Fisher's exact test", "mcnemar": "McNemar's test"}


def _test(test: CountTest) -> str:
    if test.p is None:
        return f"{_NAMES[test.key]}: {test.note or 'no result'}"
    if test.statistic is None or test.freedom is None:
        return f"{_NAMES[test.key]}: {p_value(test.p)}"
    return f"{_NAMES[test.key]}({test.freedom}) = {number(test.statistic, 2)}, {p_value(test.p)}"
