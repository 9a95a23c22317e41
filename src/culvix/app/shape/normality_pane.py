"""Normality of the column in focus: the suggested test and its verdict in words, and all that bears on it."""

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDoubleSpinBox, QFrame, QPushButton, QRadioButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.gestures import Gesture
from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import asking, by_font, clear_layout, label, plain_tip, row_of
from culvix.stats.core.sample import Sample
from culvix.stats.display import DASH, count, number, p_value, plural, signed, significant
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.normality.result import NormalityResult
from culvix.stats.registry import NORMALITY_TESTS
from culvix.stats.resampling.multiple_testing import benjamini_hochberg, holm
from culvix.stats.resampling.simulation import SimulatedP
from culvix.stats.shape.dip import DipResult, dip_test
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.findings.peak_messages import dip_text
from culvix.study.document.choices.settings import replaced
from culvix.tables.model.table import Role

__all__ = ["NormalityPane"]


class NormalityPane(QWidget):
    """α can be changed; all tests, their p by simulation and p adjusted over the columns come on demand."""

    asked = pyqtSignal(str)
    changed = pyqtSignal()
    """More or less is shown: what stands around has to make room."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.all_tests = False
        self.simulated: dict[str, SimulatedP] = {}
        self.dip: DipResult | None = None
        self._simulated_of: Sample | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 4, 0, 0)
        outer.setSpacing(4)
        self._body = QVBoxLayout()
        self._body.setSpacing(4)
        self.alpha = configured(QDoubleSpinBox(), decimals=3, minimum=0.001, maximum=0.5, singleStep=0.01)
        self.alpha.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        self.alpha.setKeyboardTracking(False)
        self.alpha.setPrefix("α ")
        self.alpha.setFixedWidth(by_font(78))
        self.alpha.setObjectName("slim")
        self.alpha.setToolTip("The level of the tests, for the whole study")
        self._stepping = Gesture(self.alpha)
        self.alpha.valueChanged.connect(self._alpha_changed)
        self.about = label("", "quiet")
        head = asking("Normality", "", lambda _: self.asked.emit(self._method), "head")
        outer.addLayout(row_of(head, 1, self.about, self.alpha))
        outer.addLayout(self._body)

    @property
    def _method(self) -> str:
        """The test the guide is asked about."""
        return self.hub.analysis.verdict.method if self.hub.analysis is not None else next(iter(NORMALITY_TESTS))

    def _alpha_changed(self, level: float) -> None:
        study = self.hub.study
        study.change_settings(replaced(study.settings, alpha=level), self._stepping.token())

    def show_analysis(self, analysis: ColumnAnalysis | None) -> None:
        """Show the verdict on ``analysis`` and what it rests on."""
        clear_layout(self._body)
        if analysis is None:
            return
        if self._simulated_of is not analysis.sample:
            self.simulated, self.dip, self._simulated_of = {}, None, analysis.sample
        verdict = analysis.verdict
        self.alpha.blockSignals(True)
        self.alpha.setValue(verdict.alpha)
        self.alpha.blockSignals(False)
        self.about.setText(f"n {count(verdict.result.n)}")
        if analysis.column.role not in (Role.YES_NO, Role.ORDERED):
            self._tests(analysis)
        box = QFrame()
        box.setObjectName({True: "against", False: "for", None: "open"}[verdict.rejects])
        inside = QVBoxLayout(box)
        inside.setContentsMargins(8, 6, 8, 6)
        inside.addWidget(label(verdict.sentence, wrap=True))
        self._body.addWidget(box)
        for pick in self.hub.study.workspace.picks_of(analysis.column.name)[-2:]:
            self._body.addWidget(label(f"Line-up: {pick.sentence}", "quiet", wrap=True))

    def _tests(self, analysis: ColumnAnalysis) -> None:
        verdict = analysis.verdict
        for key, result in analysis.normality.items():
            if self.all_tests or key == verdict.method:
                self._test(key, result)
        if verdict.without_flags is not None and verdict.without_flags.p is not None:
            without = verdict.without_flags
            message = f"without {plural(verdict.result.n - without.n, 'flagged value')}: {without.symbol}"
            message += f" {significant(without.statistic)}, {p_value(without.p)}"
            self._body.addWidget(label(message, "quiet", wrap=True))
        adjusted = self._adjusted(analysis)
        if adjusted:
            self._body.addWidget(label(adjusted, "quiet", wrap=True))
        more = QPushButton("Suggested only" if self.all_tests else f"All {len(NORMALITY_TESTS)} tests")
        more.clicked.connect(self._toggle_tests)
        simulate = QPushButton("Simulate p")
        simulate.setToolTip("Compare with normal samples of the same n, in the background")
        simulate.clicked.connect(self._simulate)
        peaks = QPushButton("Two peaks?")
        peaks.setToolTip("Test whether the column has more than one peak, in the background (dip test)")
        peaks.clicked.connect(self._test_peaks)
        for button in (more, simulate, peaks):
            button.setObjectName("slim")
        self._body.addLayout(row_of(more, simulate, peaks, 1))
        if self.dip is not None:
            self._dip(analysis, self.dip)

    def _dip(self, analysis: ColumnAnalysis, found: DipResult) -> None:
        """What the dip test says, beside the peaks that the density shows."""
        name = asking("dip", "dip", self.asked.emit)
        if found.dip is None or found.p is None:
            self._body.addLayout(row_of(name, 1))
            self._body.addWidget(label(found.note or DASH, "quiet", wrap=True))
            return
        statistic, p = label(significant(found.dip)), label(p_value(found.p.p), "head")
        p.setToolTip(f"{count(found.p.repeats)} uniform samples, seed {found.p.seed}")
        self._body.addLayout(row_of(name, 1, statistic, p, spacing=4))
        self._body.addWidget(label(dip_text(found, analysis.density, analysis.verdict.alpha), "quiet", wrap=True))

    def _test(self, key: str, result: NormalityResult) -> None:
        test = NORMALITY_TESTS[key]
        name = asking(test.short, key, self.asked.emit)
        about = (test.name, test.tells, test.source, *_parts(result), result.note)
        name.setToolTip(plain_tip("\n".join(part for part in about if part)))
        if result.statistic is None:
            self._body.addLayout(row_of(name, 1, label(DASH, "head")))
            return
        leading: list[QWidget | int] = [self._verdict_choice(key, test.name), name] if self.all_tests else [name]
        symbol = "" if self.all_tests else f"{result.symbol} "
        statistic = label(symbol + significant(result.statistic))
        statistic.setToolTip(f"{result.symbol}, n = {count(result.n)}")
        caution = " !" if result.note else ""
        p = label(p_value(result.p) + caution, "head")
        self._body.addLayout(row_of(*leading, 1, statistic, p, spacing=4))
        found = self.simulated.get(key)
        if found is not None:
            by = label(f"simulated {p_value(found.p)} (± {number(found.standard_error, 4)})", "quiet")
            by.setToolTip(f"{count(found.repeats)} normal samples of the same n, seed {found.seed}; ± standard error")
            self._body.addLayout(row_of(1, by))

    def _verdict_choice(self, key: str, name: str) -> QRadioButton:
        """The choice of a test to give the verdict; that of the one in force takes it back to the suggested one."""
        choice, study = configured(QRadioButton(), autoExclusive=False), self.hub.study
        choice.setChecked(key == self._method)
        chosen = study.settings.verdict_test
        choice.setToolTip(f"Let {name} give the verdict, wherever it is valid")
        requested = None if key == chosen else key
        choice.clicked.connect(lambda: study.change_settings(replaced(study.settings, verdict_test=requested)))
        return choice

    def _adjusted(self, analysis: ColumnAnalysis) -> str:
        """p of the suggested test adjusted over all columns worked out so far."""
        study, own = self.hub.study, analysis.column.name
        known = {}
        for column in study.table.numeric:
            found = study.workspace.known_analysis(column.name)
            if found is not None and found.verdict.rejects is not None and found.verdict.result.p is not None:
                known[column.name] = found.verdict.result.p
        if own not in known or len(known) < 2:
            return ""
        position, p = list(known).index(own), np.array(list(known.values()))
        message = f"over {len(known)} columns: Holm {p_value(float(holm(p)[position]))}"
        return f"{message}, Benjamini–Hochberg {p_value(float(benjamini_hochberg(p)[position]))}"

    def _test_peaks(self) -> None:
        """Test for more than one peak, in the background."""
        analysis = self.hub.analysis
        if analysis is None:
            return
        sample = analysis.sample

        def arrived(found: DipResult) -> None:
            if self._simulated_of is sample:
                self.dip = found
                self.changed.emit()

        self.hub.start(
            "testing for two peaks", lambda progress: dip_test(sample, progress=progress), arrived, priority=5
        )

    def _toggle_tests(self) -> None:
        self.all_tests = not self.all_tests
        self.changed.emit()

    def _simulate(self) -> None:
        """Work out p of the tests shown from simulated normal samples, in the background."""
        analysis = self.hub.analysis
        if analysis is None:
            return
        sample = analysis.sample
        shown = analysis.normality if self.all_tests else {analysis.verdict.method: None}
        tests = {key: NORMALITY_TESTS[key] for key in shown}

        def arrived(found: dict[str, SimulatedP]) -> None:
            if self._simulated_of is sample:
                self.simulated = found
                self.changed.emit()

        self.hub.start(
            "simulating normal samples",
            lambda progress: monte_carlo_normality(tests, sample, progress=progress),
            arrived,
            priority=5,
        )


def _parts(result: NormalityResult) -> list[str]:
    """What a statistic is made of, a line each."""
    return [f"{name}: z {signed(z)}, {p_value(p)}" for name, (z, p) in result.parts.items()]
