"""Reports as files: the same words, figures and pictures in every format, whatever stands in a table."""

import io
import unicodedata
from pathlib import Path

import docx
import pypdf
import pytest
from PyQt6.QtWidgets import QApplication

from culvix.errors import WriteError
from culvix.report.compose import compose
from culvix.report.formats.report_files import report_file, write_report
from culvix.report.parts import plain, texts_in
from culvix.report.report_reading import visible_words
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.tables import Table, read_table
from tests.report.rendering import draw

DAY = "2026-05-01"


@pytest.fixture(scope="module")
def study(demo_table: Table, qapp: QApplication) -> Study:
    made = Study.of_table(demo_table)
    made.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [3, 4, 5], reason="torn labels")
    made.change_report(ReportLayout(title="Spring trout", author="A. Nalyst"))
    return made


@pytest.fixture(scope="module")
def files(study: Study) -> dict[str, bytes]:
    return {suffix: report_file(study.workspace, suffix, draw, written=DAY) for suffix in (".html", ".pdf", ".docx")}


def letters(words: list[str]) -> str:
    """What is read, whatever blanks, lines and joined letters it is set with."""
    return "".join(unicodedata.normalize("NFKC", "".join(words)).split())


@pytest.mark.parametrize("suffix", [".html", ".pdf", ".docx"])
def test_every_line_stands_in_every_format(suffix: str, study: Study, files: dict[str, bytes]) -> None:
    seen = letters(visible_words(suffix, files[suffix]))
    report = compose(study.workspace, written=DAY)
    for section in report.sections:
        assert letters([section.title]) in seen
        for text in texts_in(section.parts):
            if suffix != ".html":
                assert letters([plain(text)]) in seen, plain(text)
    assert "Springtrout" in seen and DAY in seen


@pytest.mark.parametrize("suffix", [".html", ".pdf", ".docx"])
def test_the_same_study_gives_the_same_bytes(suffix: str, study: Study, files: dict[str, bytes]) -> None:
    assert report_file(study.workspace, suffix, draw, written=DAY) == files[suffix]


def test_pages_have_bookmarks_numbers_and_the_data_attached(files: dict[str, bytes]) -> None:
    reader = pypdf.PdfReader(io.BytesIO(files[".pdf"]))
    assert 5 <= len(reader.pages) <= 14 and reader.metadata is not None
    assert reader.metadata.title == "Spring trout" and reader.metadata.author == "A. Nalyst"
    (title, below) = reader.outline
    assert title.title == "Spring trout"
    sections = [entry.title for entry in below if not isinstance(entry, list)]
    assert sections[:2] == ["In short", "Where the data come from"]
    columns = next(below[k + 1] for k, entry in enumerate(below) if getattr(entry, "title", "") == "Columns")
    assert [entry.title for entry in columns][-1] == "glucose_mmol_l"
    for number, page in enumerate(reader.pages, start=1):
        assert str(number) in page.extract_text().split()
    assert list(reader.attachments) == ["culvix-report.json"]


def test_no_heading_ends_a_page(files: dict[str, bytes]) -> None:
    reader = pypdf.PdfReader(io.BytesIO(files[".pdf"]))

    def titles(entries: list) -> set[str]:
        return {
            title
            for entry in entries
            for title in (titles(entry) if isinstance(entry, list) else {letters([str(entry.title)])})
        }

    headings = titles(reader.outline)
    for page in reader.pages:
        lines = [letters([line]) for line in page.extract_text().splitlines() if line.strip()]
        # The foot, with number and title, is drawn first.
        assert lines[-1] not in headings


def test_a_word_processor_finds_headings_tables_and_pictures_with_words(files: dict[str, bytes]) -> None:
    document = docx.Document(io.BytesIO(files[".docx"]))
    styles = {paragraph.style.name for paragraph in document.paragraphs if paragraph.style is not None}
    assert {"Title", "Heading 1", "Heading 2", "List Bullet"} <= styles
    assert document.core_properties.title == "Spring trout" and document.core_properties.author == "A. Nalyst"
    assert len(document.inline_shapes) == 19
    descriptions = [shape._inline.docPr.get("descr") for shape in document.inline_shapes]
    said = ("median", "Scatter of", "Bars of", "patterns of gaps", "All pairs of")
    assert all(any(words in text for words in said) for text in descriptions)
    heads = [table.rows[0]._tr.xpath("./w:trPr/w:tblHeader") for table in document.tables]
    assert sum(map(bool, heads)) >= 5, "heads are repeated on each page"


def test_markdown_has_its_pictures_beside_it(study: Study, tmp_path: Path) -> None:
    path = tmp_path / "report.md"
    write_report(study.workspace, path, draw)
    text = path.read_text()
    pictures = sorted((tmp_path / "report-pictures").iterdir())
    assert len(pictures) == 19 and all(f"(report-pictures/{picture.name})" in text for picture in pictures)
    assert text.startswith("# Spring trout\n") and "| mass\\_g |" in text and "torn labels" in text


HOSTILE = ["<b>bold</b>", "=1+1", "a|b`c*d_e", "שם\u202e", "bell\x07cell", "&amp;", "]]>-->", "{{ 7*7 }}", "]](x)"]


@pytest.fixture(scope="module")
def hostile(tmp_path_factory: pytest.TempPathFactory, qapp: QApplication) -> Study:
    path = tmp_path_factory.mktemp("hostile") / "<script>.csv"
    rows = [",".join(f"{(7 * row + 3 * k) % 23}.{k}" for k in range(len(HOSTILE))) for row in range(40)]
    path.write_text("\n".join([",".join(HOSTILE), *rows]) + "\n")
    study = Study.of_table(read_table(path))
    study.decide(DecisionKind.EXCLUDE_VALUE, study.table.columns[0].name, [1], reason="</script><script>alert(1)")
    study.change_report(ReportLayout(title="<i>&\x00", author="\x07", summary=("-->\x0b</style>",)))
    return study


@pytest.mark.parametrize("suffix", [".html", ".pdf", ".docx"])
def test_nothing_from_a_table_is_markup(suffix: str, hostile: Study) -> None:
    data = report_file(hostile.workspace, suffix, draw, written=DAY)
    seen = letters(visible_words(suffix, data))
    for text in ("<b>bold</b>", "=1+1", "a|b`c*d_e", "&amp;", "{{7*7}}", "</script><script>alert(1)"):
        assert letters([text]) in seen
    if suffix == ".html":
        assert data.count(b"<script") == data.count(b"</script>") == 1 and b"<b>bold" not in data


def test_a_report_is_never_written_over_its_table(study: Study, tmp_path: Path) -> None:
    source = study.table.source.path
    link = tmp_path / "report.pdf"
    link.symlink_to(source)
    before = source.read_bytes()
    with pytest.raises(WriteError, match="never written"):
        write_report(study.workspace, link, draw)
    assert source.read_bytes() == before


def test_a_folder_for_pictures_that_cannot_be_made_is_told(study: Study, tmp_path: Path) -> None:
    (tmp_path / "report-pictures").write_text("a file of this name")
    with pytest.raises(WriteError, match="report-pictures for the pictures cannot be made"):
        write_report(study.workspace, tmp_path / "report.md", draw)
    assert not (tmp_path / "report.md").exists()
