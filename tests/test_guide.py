"""The guide has an entry for every word that the screen uses, and its links lead somewhere."""

import pytest

from culvix.charts.lanes.stack import LANES
from culvix.guide import entries, entry_for, links_in, related
from culvix.stats.registry import CORRELATION_KINDS, GROUP_TESTS, NORMALITY_TESTS, OUTLIER_METHODS, STATISTICS
from culvix.stats.shape.axis_scale import AXIS_SCALES
from culvix.stats.shape.density import BANDWIDTH_RULES
from culvix.stats.shape.histogram import BIN_RULES
from culvix.study.analysis.findings.findings import FINDING_NAMES
from culvix.study.analysis.survey.survey import survey_fields
from culvix.study.document.decisions import Cause, DecisionKind
from culvix.tables.model.table import Role

WORDS = {
    "statistics": STATISTICS,
    "lines of the survey": survey_fields(),
    "normality tests": NORMALITY_TESTS,
    "outlier methods": OUTLIER_METHODS,
    "correlations": CORRELATION_KINDS,
    "tests of groups": GROUP_TESTS,
    "lanes": LANES,
    "roles": map(str, Role),
    "decisions": (kind.name for kind in DecisionKind),
    "causes": (cause.name for cause in Cause),
    "axis scales": AXIS_SCALES,
    "bin rules": BIN_RULES,
    "bandwidths": BANDWIDTH_RULES,
    "findings": FINDING_NAMES,
    "the product": (
        *("study", "stage", "rail", "lane", "probe", "span", "flag", "finding", "decision", "cause"),
        *("working set", "tray", "mark", "recipe", "role", "draft", "pass"),
    ),
}


@pytest.mark.parametrize(("of", "words"), WORDS.items(), ids=WORDS)
def test_every_word_has_an_entry(of: str, words: object) -> None:
    keys = {str(word): str(word).lower().replace(" ", "_") for word in words}
    assert {word for word, key in keys.items() if entry_for(key) is None} == set(), of


def test_no_key_has_two_entries_and_each_entry_says_all_it_has_to() -> None:
    keys = [key for entry in entries().values() for key in entry.keys]
    assert len(keys) == len(set(keys))
    for entry in entries().values():
        assert all(part.strip() for part in (entry.title, entry.tells, entry.computed, entry.misleads, entry.source))


def test_words_of_other_entries_are_links_to_them() -> None:
    median = entries()["median"]
    links = links_in("Beside the median stands the SD; mediants are none.", besides=entries()["mean"])
    assert [(text, key) for text, key in links if key] == [("median", "median"), ("SD", "sd")]
    assert "".join(text for text, _ in links) == "Beside the median stands the SD; mediants are none."
    assert all(key is None for _, key in links_in("the median", besides=median)), "an entry has no link to itself"


def test_entries_that_speak_of_each_other_are_related() -> None:
    for entry in entries().values():
        found = related(entry)
        assert entry not in found and len({other.key for other in found}) == len(found)
    assert entries()["adjusted_fences"] in related(entries()["medcouple"])
