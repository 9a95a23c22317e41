"""Changes of cells as expressions of Polars."""

from functools import reduce

import polars as pl

from culvix.tables.engines.edits import Act, Edit, columns_decided
from culvix.tables.engines.files.expressions import Reading

__all__ = ["edited"]


def edited(frame: pl.LazyFrame, reading: Reading, edits: tuple[Edit, ...]) -> pl.LazyFrame:
    """``frame`` with all ``edits`` made, its columns in their order."""
    marks = {index: reading.is_met(each.where) for index, each in enumerate(edits)}
    columns, out = [], []
    for name, of_column in columns_decided(edits).items():
        out.append(_chain(pl.lit(False), [(index, pl.lit(each.act is Act.LEAVE_OUT)) for index, each in of_column]))
        if name and any(each.act in (Act.EMPTY, Act.SET) for _, each in of_column):
            columns.append(_cell(reading, name, of_column))
    left = frame.collect_schema().names()
    changed = reading.of(frame).with_columns(each.alias(_mark(index)) for index, each in marks.items())
    if out:
        changed = changed.filter(~pl.any_horizontal(out))
    return changed.with_columns(columns).select(left)


def _mark(index: int) -> str:
    return f"edit {index}"


def _chain(otherwise: pl.Expr, answers: list[tuple[int, pl.Expr]]) -> pl.Expr:
    """The answer of the first edit that a row meets."""
    return reduce(
        lambda rest, each: pl.when(pl.col(_mark(each[0]))).then(each[1]).otherwise(rest), reversed(answers), otherwise
    )


def _cell(reading: Reading, name: str, edits: list[tuple[int, Edit]]) -> pl.Expr:
    column = reading.columns[name].name
    is_set = any(each.act is Act.SET for _, each in edits)
    cell = pl.col(column).cast(pl.Float64) if is_set else pl.col(column)
    answers = []
    for index, each in edits:
        if each.act is Act.EMPTY:
            answers.append((index, pl.lit(None)))
        elif each.act is not Act.SET:
            answers.append((index, cell))
        elif each.other:
            answers.append((index, pl.col(reading.columns[each.other].name).cast(pl.Float64)))
        elif each.value is not None:
            answers.append((index, pl.lit(each.value)))
        else:
            answers.append((index, cell * (each.factor or 1.0) + each.shift))
    return _chain(cell, answers).alias(column)
