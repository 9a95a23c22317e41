"""The profile of a study with decisions."""

import pytest

from culvix.demo import Cohort
from culvix.errors import CulvixError
from culvix.report.documents.profile import profile_document
from culvix.study import DecisionKind, Study


def test_the_profile_of_a_decided_study_is_of_its_working_set(study: Study, cohort: Cohort) -> None:
    codes = [row - 1 for row in cohort.planted("missing_code").rows]
    study.decide(DecisionKind.EXCLUDE_VALUE, "oxygen_mg_l", codes)
    document = profile_document(study.workspace, columns=["oxygen_mg_l"], with_correlation=False)
    (column,) = document["columns"]
    assert column["n"] == 2180 - len(codes) and column["min"] > 5
    assert (column["missing"], column["excluded"]) == (0, len(codes))
    assert len(column["outliers"]["z_score"]["rows"]) == len(codes), "flags stay those of the data as imported"
    with pytest.raises(CulvixError):
        profile_document(study.workspace, columns=["no such column"])
