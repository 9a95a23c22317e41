"""Pictures of the example's columns, for the start page."""

from culvix.charts.items.sparkline import sparkline_json, sparkline_of
from culvix.demo import write_demo
from culvix.places import scratch_folder
from culvix.study import Study
from culvix.tables import read_table

__all__ = ["example_pictures"]

_COLUMNS = ("length_mm", "mass_g", "swim_cm_s", "feed_ratio")


def example_pictures() -> tuple[str, ...]:
    """The sparklines of some columns of the example, as JSON. Takes a moment: to be done in the background."""
    with scratch_folder() as folder:
        workspace = Study.of_table(read_table(write_demo(folder))).workspace
        pairs = [(name, sparkline_of(workspace.analysis(name))) for name in _COLUMNS]
    return tuple(sparkline_json(name, sparkline) for name, sparkline in pairs if sparkline is not None)
