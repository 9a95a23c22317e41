"""What a test tells of the groups: how large the difference is, the way to the test, and the others."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton

from culvix.app.groups.text_margin import TextMargin
from culvix.app.session.configured import configured
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label, plain_tip, row_of, shortened
from culvix.stats.display import number, p_value, plural
from culvix.stats.groups.result import GroupTest
from culvix.stats.registry import GROUP_TESTS
from culvix.study.groups.comparison.chosen_test import STEPS, PathStep
from culvix.study.groups.comparison.compared_column import ComparedColumn
from culvix.study.groups.comparison.comparison import GroupComparison
from culvix.study.groups.comparison.effect_words import EFFECTS, effect_words

__all__ = ["CompareMargin"]

_AS_FOUND, _YES, _NO = "as found", "yes", "no"
_RIGHT = Qt.AlignmentFlag.AlignRight
_FITTING = "the one that fits"


class CompareMargin(TextMargin):
    """Shows a `ComparedColumn` in words and numbers."""

    answered = pyqtSignal(str, object)
    """A step on the way to the test is to be taken as answered so (True, False, or None for as found)."""
    asked = pyqtSignal(object)
    """Another test is to be read first, by its key; None for the one that fits."""
    kept = pyqtSignal(bool)
    """It is to stand in the report, or no more."""
    flags_asked = pyqtSignal(str)
    """The rows are to be selected whose value in a column is flagged where all columns are one sample."""
    all_asked = pyqtSignal()
    """All other tests are to be shown."""

    def __init__(self) -> None:
        super().__init__()
        self.shows_all = False

    def show_compared(self, compared: ComparedColumn, *, kept: bool) -> None:
        """Tell of ``compared``, which is ``kept`` for the report, or not."""
        self.clear()
        by = "" if compared.by == "column" else f" by {compared.by}"
        self.body.addWidget(label(f"{compared.measure}{by}", "head", wrap=True))
        found = compared.comparison
        if found is None:
            self.body.addWidget(label(compared.note, wrap=True))
            self._pooled(compared)
            return
        self._effects(found, compared)
        self._answer(found)
        self._path(found)
        self._seen(found, compared)
        self._pooled(compared)
        self._others(found)
        keep = configured(QPushButton("In the report" if kept else "Keep for the report"), checkable=True, checked=kept)
        keep.setObjectName("slim")
        keep.setToolTip("The report has it in its section on groups, worked out anew whenever values change")
        keep.clicked.connect(self.kept.emit)
        self.body.addLayout(row_of(keep, 1))

    def _effects(self, found: GroupComparison, compared: ComparedColumn) -> None:
        """The sizes of the difference, each with its interval, before any p."""
        unit = f" {compared.unit}" if compared.unit else ""
        for effect in found.effects:
            kind = EFFECTS[effect.key]
            value, interval = effect_words(effect, compared.style)
            name = label(kind.name)
            name.setToolTip(plain_tip(kind.tells))
            self.body.addLayout(row_of(name, 1, label(f"{value}{unit if kind.in_unit else ''}", "head")))
            if interval:
                ends = f"{100 * effect.confidence:g} % interval {interval}" if effect.low is not None else interval
                self.body.addWidget(label(ends, "quiet", wrap=True))
        if len(found.names) == 2 and found.effects and found.effects[0].value is not None:
            self.body.addWidget(label(f"{found.names[0]} less {found.names[1]}", "quiet", wrap=True))

    def _answer(self, found: GroupComparison) -> None:
        kind, result = GROUP_TESTS[found.chosen.key], found.result
        self.body.addSpacing(4)
        self.body.addWidget(label(f"{kind.name}: {_outcome(kind.statistic, result)}", "head", wrap=True))
        if result.note:
            self.body.addWidget(label(result.note, wrap=True))
        elif result.p is not None:
            self.body.addWidget(label(_sentence(found), wrap=True))
        if result.p_by:
            self.body.addWidget(label(f"p {result.p_by}", "quiet", wrap=True))

    def _path(self, found: GroupComparison) -> None:
        """Each question on the way to the test, its numbers, and an answer that can be chosen otherwise."""
        self.body.addSpacing(4)
        self.body.addWidget(label("The way to the test", "head"))
        for step in found.chosen.steps:
            self._step(step)
        self.body.addWidget(label(found.chosen.reason, wrap=True))
        names = {key: GROUP_TESTS[key].name for key in found.fitting}
        tests = Choice()
        tests.addItems([_FITTING, *names.values()])
        as_chosen = "as chosen" in found.chosen.reason
        tests.setCurrentIndex(list(names).index(found.chosen.key) + 1 if as_chosen else 0)
        tests.setToolTip("Which test is read first; kept with the study")
        tests.activated.connect(lambda at: self.asked.emit(list(names)[at - 1] if at else None))
        self.body.addLayout(row_of(label("Read first", "quiet"), tests, 1))

    def _step(self, step: PathStep) -> None:
        if step.key == "sizes":
            self.body.addWidget(label(f"{step.question} {step.words}.", "quiet", wrap=True))
            return
        answer = Choice()
        answer.addItems([f"{_AS_FOUND}: {_YES if step.answer else _NO}" if not step.chosen else _AS_FOUND, _YES, _NO])
        answer.setCurrentIndex(0 if not step.chosen else 1 if step.answer else 2)
        answer.setAccessibleName(STEPS[step.key])
        chosen = (None, True, False)
        answer.activated.connect(lambda at, key=step.key: self.answered.emit(key, chosen[at]))
        question = row_of(label(step.question, wrap=True), answer)
        question.setStretch(0, 1)
        self.body.addLayout(question)
        self.body.addWidget(label(step.words, "quiet", wrap=True))

    def _seen(self, found: GroupComparison, compared: ComparedColumn) -> None:
        """Which difference so many values could have shown."""
        if found.detectable is None:
            return
        unit = f" {compared.unit}" if compared.unit else ""
        which = "of the two smallest groups " if len(found.names) > 2 else ""
        shown = compared.style.statistic(found.detectable)
        words = f"A difference of means {which}of {shown}{unit} would be seen in four of five such tables."
        self.body.addWidget(label(words, "quiet", wrap=True))

    def _pooled(self, compared: ComparedColumn) -> None:
        """Which values are outliers among those of all columns."""
        flags = compared.pooled_flags
        if flags is None or not flags.methods:
            return
        self.body.addSpacing(4)
        self.body.addWidget(
            label(f"As one sample, {plural(flags.count, 'value is', 'values are')} flagged", "head", wrap=True)
        )
        self.body.addWidget(label(f"by {flags.names}", "quiet", wrap=True))
        for name, rows in flags.rows.items():
            if rows.size:
                button = configured(QPushButton(f"{shortened(name, 18)}: {plural(rows.size, 'row')}"))
                button.setObjectName("slim")
                button.setToolTip(plain_tip(f"Select the rows whose value in {name} is flagged among all columns"))
                button.clicked.connect(lambda _, name=name: self.flags_asked.emit(name))
                self.body.addLayout(row_of(button, 1))

    def _others(self, found: GroupComparison) -> None:
        self.body.addSpacing(4)
        if not self.shows_all:
            button = configured(QPushButton("All other tests"))
            button.setObjectName("slim")
            button.clicked.connect(self._show_all)
            self.body.addLayout(row_of(button, 1))
            return
        self.body.addWidget(label("All other tests", "head"))
        table = QGridLayout()
        table.setHorizontalSpacing(9)
        table.setVerticalSpacing(2)
        for row, (key, result) in enumerate(found.others.items()):
            kind = GROUP_TESTS[key]
            name = label(kind.short)
            name.setToolTip(plain_tip(f"{kind.name}: {kind.tells}"))
            table.addWidget(name, row, 0)
            table.addWidget(label(kind.compares, "quiet"), row, 1)
            shown = label("—" if result.p is None else p_value(result.p))
            shown.setToolTip(plain_tip(result.note or _outcome(kind.statistic, result)))
            table.addWidget(shown, row, 2, _RIGHT)
        table.setColumnStretch(0, 1)
        self.body.addLayout(table)
        self.body.addWidget(label("Choose one before you look at p, not by it.", "quiet", wrap=True))

    def _show_all(self) -> None:
        self.shows_all = True
        self.all_asked.emit()


def _outcome(letter: str, result: GroupTest) -> str:
    """The statistic with its degrees of freedom, and p."""
    if result.statistic is None or result.p is None:
        return "no result"
    freedom = ", ".join(number(each, 0 if each == int(each) else 1) for each in result.freedom)
    return f"{letter}{f'({freedom})' if freedom else ''} = {number(result.statistic, 2)}, {p_value(result.p)}"


_DIFFER = {
    "means": ("The means differ.", "A difference of the means does not show."),
    "ranks": ("Values of one group tend to lie higher.", "That one group tends to lie higher does not show."),
    "spreads": ("The groups differ in their spread.", "A difference of the spreads does not show."),
    "shapes": ("The groups are distributed differently.", "A difference of the distributions does not show."),
}


def _sentence(found: GroupComparison) -> str:
    p = found.result.p
    assert p is not None
    differ, not_shown = _DIFFER[found.compares]
    return differ if p < found.alpha else f"{not_shown} That is no proof that there is none."
