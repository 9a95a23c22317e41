"""What the analyst is looking at: choices that change no number, and are no acts to be undone."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

__all__ = ["View"]


@dataclass(frozen=True)
class View:
    """Columns and places chosen to be looked at; None or empty where the choice is left to the program.

    ``stage`` is the one in view, by title, and ``focus`` the column that all views are turned to. ``group_by`` makes
    the groups of lanes, ``pair`` stands in the scatter in its ``pair_form``, with ``pair_parts`` over it and the
    ``pair_groups`` of the column ``pair_by``, in the ``pair_styles`` (from 0) chosen for some; ``pair_controls`` are
    held fixed beside it. ``relations_view`` is how all pairs are shown, ``matrix_order`` the order of columns there,
    ``matrix_columns`` the one made by hand, ``matrix_sides`` what stands on either side there, and
    ``matrix_categories`` whether columns without numbers stand there, too; ``relations_rows`` are those with ``both``
    values of a pair, or with values in ``all`` columns. ``groups_view`` is how groups are looked at: the column in
    focus by the column ``groups_by``, in so many ``groups_ranges`` (0 for its values, −1 as usual) or by a
    ``groups_period``, in the ``groups_order``, with the ``groups_statistics`` of each by key (none: the usual ones); or
    columns with each other, ``groups_paired`` by row. ``groups_answers`` are those to steps on the way to a test,
    ``groups_test`` is the one read first; both change no number of a test. ``groups_crossed`` are two categories
    against each other, with ``groups_cells`` in the cells. Subsets are named by ``subset_columns`` (None: by all that
    do not move with the target) and so many ``subset_conditions``; ``subset_seed`` chooses the half of the rows that is
    searched. ``other_table`` is compared with, a path from the folder of this one, rows matched by ``other_key``.
    ``distance_columns`` are taken together for distances and ``compared_columns`` stand beside each other. ``probes``
    has the value (in its column's unit) at which each column is read, ``pinned_probes`` a second one to read what lies
    between. ``selected_cells`` are rows (from 0) by column, ``selected_rows`` whole ones, as they were selected when
    the study was left, ``selected_from`` says how.
    """

    stage: str | None = None
    focus: str | None = None
    group_by: str | None = None
    pair: tuple[str, str] | None = None
    pair_parts: tuple[str, ...] = ("line", "band", "without", "lanes")
    pair_form: str = "values"
    pair_by: str = ""
    pair_groups: tuple[str, ...] = ()
    pair_styles: Mapping[str, int] = field(default_factory=lambda: MappingProxyType({}))
    pair_controls: tuple[str, ...] = ()
    relations_view: str = ""
    matrix_order: str = "similarity"
    matrix_columns: tuple[str, ...] = ()
    matrix_sides: tuple[str, str] = ("pearson", "")
    matrix_categories: bool | None = None
    relations_rows: str = "both"
    groups_view: str = ""
    groups_by: str = ""
    groups_ranges: int = -1
    groups_period: str = ""
    groups_order: str = "name"
    groups_statistics: tuple[str, ...] = ()
    groups_paired: bool = False
    groups_answers: Mapping[str, bool] = field(default_factory=lambda: MappingProxyType({}))
    groups_test: str = ""
    groups_crossed: tuple[str, str] | None = None
    groups_cells: str = "counts"
    subset_columns: tuple[str, ...] | None = None
    subset_conditions: int = 3
    subset_seed: int = 1
    other_table: str = ""
    other_key: tuple[str, ...] = ()
    distance_columns: tuple[str, ...] = ()
    compared_columns: tuple[str, ...] = ()
    probes: Mapping[str, float] = field(default_factory=lambda: MappingProxyType({}))
    pinned_probes: Mapping[str, float] = field(default_factory=lambda: MappingProxyType({}))
    selected_cells: tuple[tuple[str, tuple[int, ...]], ...] = ()
    selected_rows: tuple[int, ...] = ()
    selected_from: str = ""
