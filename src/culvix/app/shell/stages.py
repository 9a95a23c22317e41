"""The stages of the work, in order. A stage is a folder with a page, and a row here."""

from culvix.app.groups.page import GROUPS
from culvix.app.intake.page import INTAKE
from culvix.app.outliers.page import OUTLIERS
from culvix.app.relations.page import RELATIONS
from culvix.app.report.page import REPORT
from culvix.app.session.stage_page import StageRow
from culvix.app.shape.page import SHAPE
from culvix.app.survey.page import SURVEY

__all__ = ["STAGES", "STAGE_ROWS"]

STAGE_ROWS: tuple[StageRow, ...] = (INTAKE, SURVEY, SHAPE, OUTLIERS, RELATIONS, GROUPS, REPORT)

STAGES = [row.title for row in STAGE_ROWS]
"""Their titles."""
