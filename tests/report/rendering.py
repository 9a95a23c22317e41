"""Reports for tests, their pictures left to the tests of pictures."""

from culvix.report.compose import compose
from culvix.report.formats.html import report_html
from culvix.report.parts import PictureBlock
from culvix.study.analysis.workspace import Workspace

__all__ = ["draw", "html_of", "png"]


def draw(block: PictureBlock) -> str:
    """A stand-in for the drawing of pictures."""
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><!-- {type(block.picture).__name__} --></svg>'


def html_of(workspace: Workspace) -> str:
    """The report of ``workspace`` as it stands, by its layout."""
    return report_html(compose(workspace), draw)


def png(block: PictureBlock) -> bytes:
    """A stand-in for a picture as pixels."""
    return block.name.encode()
