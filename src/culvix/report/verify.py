"""A written report compared with what its source gives when everything is computed anew."""

from collections.abc import Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from pathlib import Path

from culvix.files import read_whole
from culvix.progress import Progress, silent
from culvix.report.carried import FigureRow, figure_rows, is_sealed_whole, read_carried
from culvix.report.compose import compose
from culvix.report.formats.report_files import Draw, report_file
from culvix.report.report_reading import carried_in, visible_words
from culvix.stats.display import count, plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.row_check import check_rows
from culvix.tables import read_table

__all__ = ["Verification", "verify"]

_MOST = 12
_AROUND = 4
_LONG = 3000
_LARGEST = 1 << 28


@dataclass(frozen=True)
class Verification:
    """How many ``figures`` a report has, and a sentence for each thing that is not as computed anew."""

    figures: int
    differing: int
    differences: tuple[str, ...]

    @property
    def sentence(self) -> str:
        same = self.figures - self.differing
        return f"{count(self.figures)} figures, {count(same)} the same."


def verify(report: Path, source: Path | None, draw: Draw, *, progress: Progress = silent) -> Verification:
    """Compute everything in ``report`` anew from ``source``, or from where its table was, and compare.

    Raises ReadError where the report carries nothing to be computed, or the table cannot be read.
    """
    data = read_whole(report, _LARGEST)
    kind, text = carried_in(report, data)
    carried = read_carried(text)
    document = carried.document
    table = read_table(source or document.origin.path, document.origin.options, dictionary=document.dictionary)
    check_rows([document], table.rows)
    workspace = Workspace.of(document, table)
    found = compose(workspace, written=carried.written, progress=lambda share, doing: progress(0.6 * share, doing))
    figures = _figures(carried.figures, figure_rows(found))
    differences = list(figures)
    if table.source.sha256 != carried.sha256:
        differences.insert(0, f"{table.source.name} is not the table of the report: its checksum differs.")
    again = report_file(
        workspace,
        kind,
        draw,
        written=carried.written,
        progress=lambda share, doing: progress(0.6 + 0.4 * share, doing),
    )
    differences += _words(visible_words(kind, data), visible_words(kind, again))
    if not is_sealed_whole(data):
        differences.append("The file was altered after it was written: its seal does not fit.")
    shown = differences[:_MOST]
    if len(differences) > _MOST:
        shown.append(f"… and {plural(len(differences) - _MOST, 'other difference')}.")
    return Verification(len(carried.figures), len(figures), tuple(shown))


def _figures(written: Sequence[FigureRow], computed: Sequence[FigureRow]) -> list[str]:
    """A sentence for each figure that differs, by its place and key."""
    sentences = []
    for (key, value, text), (_, now, shown) in zip(written, computed, strict=False):
        if value != now or text != shown:
            sentences.append(f"{key} is {text} ({value!r}) in the report and {shown} ({now!r}) when computed.")
    if len(written) != len(computed):
        sentences += [
            f"The report has {plural(len(written), 'figure')}; computed anew it has {count(len(computed))}."
        ] * abs(len(written) - len(computed))
    return sentences


def _words(written: Sequence[str], computed: Sequence[str]) -> list[str]:
    """A sentence for each place at which a reader sees something else than what is written anew."""
    start, end = _common(written, computed)
    old, new = written[start : len(written) - end], computed[start : len(computed) - end]
    letters = all(len(word) == 1 for word in written)
    between, around = ("", 5 * _AROUND) if letters else (" ", _AROUND)
    if len(old) + len(new) > _LONG:
        return [f"From “{between.join(old[:around])}” on, most of the report is not what is written anew."]
    sentences = []
    for tag, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag != "equal":
            before = between.join(written[max(start + a - around, 0) : start + a])
            sentences.append(
                f"After “{before}” the report says “{between.join(old[a:b])}”; "
                f"written anew it is “{between.join(new[c:d])}”."
            )
    return sentences


def _common(one: Sequence[str], other: Sequence[str]) -> tuple[int, int]:
    """How many words two texts have in common at their beginning, and behind these at their end."""
    least = min(len(one), len(other))
    start = next((k for k in range(least) if one[k] != other[k]), least)
    end = next((k for k in range(least - start) if one[-1 - k] != other[-1 - k]), least - start)
    return start, end
