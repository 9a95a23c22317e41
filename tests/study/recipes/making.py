"""Studies with decisions by rule, and tables that differ from theirs in one thing each."""

from pathlib import Path

import numpy as np

from culvix.study import DecisionKind, Study
from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.document.rules import Rule
from culvix.study.recipes.recipe import Recipe, recipe_of
from culvix.tables import Table, read_table

FISH = 200


def decide_by_rule(study: Study, column: str, rule: Rule, kind: DecisionKind, **how: object) -> None:
    """Decide on all that ``rule`` means and that is not decided yet, as the window does."""
    preview = study.workspace.analysis(column)
    rows = rows_of(rule, preview.flags, preview.flag_basis)
    left = np.setdiff1d(rows, study.working.decided(column))
    study.decide(kind, column, left, rule=rule, reason=rule.text, **how)


def made(study: Study) -> Recipe:
    return recipe_of(study.workspace, study.history)


def fish(folder: Path, name: str = "fish.csv", *, seed: int = 4, **changed: list[str] | None) -> Table:
    """A small catch: tag, net, length and weight; ``changed`` has other cells of a column, None where it is to go."""
    draw = np.random.default_rng(seed)
    length = draw.normal(200, 20, FISH)
    columns: dict[str, list[str]] = {
        "tag": [f"F{number:03d}" for number in range(FISH)],
        "net": [("north", "south", "west")[number % 3] for number in range(FISH)],
        "length_mm": [f"{value:.1f}" for value in length],
        "weight_g": [f"{(value / 10) ** 3 / 90 + draw.normal(0, 4):.1f}" for value in length],
    }
    for column, cells in changed.items():
        if cells is None:
            del columns[column]
        else:
            columns[column] = cells
    lines = [",".join(columns), *(",".join(cells) for cells in zip(*columns.values(), strict=True))]
    path = folder / name
    path.write_text("\n".join(lines) + "\n")
    return read_table(path)


def cells(table: Table, column: str) -> list[str]:
    """The cells of a column, to be changed."""
    return [cell or "" for cell in table[column].text.to_list()]
