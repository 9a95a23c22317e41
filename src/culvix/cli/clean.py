"""`culvix clean`: the table with the decisions of a study applied."""

from argparse import Namespace
from collections.abc import Sequence

from culvix.cli.outputs import check_outputs, write_output
from culvix.cli.parsing import Parser, add_study_options, file_parser, progress_shown, study_of

__all__ = ["clean", "clean_parser"]

_KINDS = (".csv", ".parquet", ".xlsx")


def clean_parser(*, add_help: bool = True) -> Parser:
    parser = file_parser(
        "clean",
        "Write the table of STUDY with its decisions applied: excluded rows left out, values excluded or treated as "
        "missing empty, corrected values as they are now. The first column is the row's number in the source.",
        study=True,
        add_help=add_help,
    )
    add_study_options(parser, "csv|parquet|xlsx")
    parser.add_argument(
        "--whole",
        action="store_true",
        help="of a study of a sample: write the whole table it is one of (csv, parquet), as its engine applies the "
        "decisions made by rule or on rows that a key names",
    )
    parser.add_argument(
        "--address", metavar="ADDRESS", default="", help="where the whole lies now (default: as it was)"
    )
    parser.add_argument("--seconds", type=float, metavar="S", help="how long one question to a server may take")
    return parser


def clean(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = clean_parser().parse_args(arguments)
    if options.whole:
        return _clean_whole(options)
    check_outputs([options.output], _KINDS)
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.6 * share, doing))
        write_output(
            study,
            options.output,
            lambda share, doing: progress(0.6 + 0.4 * share, doing),
            sources=(options.file,),
        )
    return 0


def _clean_whole(options: Namespace) -> int:
    """Write the whole, and say of every decision how many of its rows it was made on."""
    from culvix.errors import ReadError
    from culvix.study.whole.cleaned_whole import CLEANED_WHOLE, write_cleaned_whole
    from culvix.study.whole.samples import open_whole

    check_outputs([options.output], CLEANED_WHOLE)
    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.1 * share, doing))
        sample = study.table.source.sample
        if sample is None:
            raise ReadError(f"{options.file.name} is about no sample of a larger table.")
        engine = open_whole(sample, address=options.address, seconds=options.seconds, progress=progress)
        try:
            written = write_cleaned_whole(engine, study.workspace, options.output, progress, sources=(options.file,))
        finally:
            engine.close()
    for each in written.decisions:
        print(each.sentence)
    if written.left_out:
        print(f"left out, as no cell of a table: {', '.join(written.left_out)}")
    return 0
