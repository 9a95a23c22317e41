"""`culvix sample`: rows of a table of any size, drawn at random and repeatably, as a table to work with."""

from collections.abc import Sequence

from culvix.cli.outputs import check_outputs
from culvix.cli.parsing import Parser, path_of_file, progress_shown
from culvix.cli.whole.engine_options import engine_of, engine_parser, write_beside

__all__ = ["sample", "sample_parser"]


def sample_parser(*, add_help: bool = True) -> Parser:
    about = (
        "Draw rows of a table of any size, the same ones for the same seed while the table is unchanged, and write "
        "them as a table that says what it is a sample of."
    )
    parser = engine_parser("sample", about, add_help=add_help)
    parser.add_argument("-o", "--output", metavar="OUT.parquet", type=path_of_file, required=True, help="file to write")
    parser.add_argument("--size", type=int, default=100_000, metavar="N", help="how many rows (default 100000)")
    parser.add_argument("--seed", type=int, default=1, metavar="SEED", help="which ones (default 1)")
    parser.add_argument("--whole", action="store_true", help="survey the whole, too, and keep its figures in the file")
    parser.add_argument("--by", metavar="COLUMN", help="as many rows of each of its values")
    parser.add_argument(
        "--beyond",
        metavar="ROWS.parquet",
        type=path_of_file,
        help="write the rows of the whole with a value beyond the fences at 1.5 IQR, too (at most 100000)",
    )
    return parser


def sample(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = sample_parser().parse_args(arguments)
    outputs = [options.output] + ([options.beyond] if options.beyond is not None else [])
    check_outputs(outputs, (".parquet",))
    from culvix.report.formats.table_files import frame_file
    from culvix.study.whole.samples import SampleOf, draw_sample, rows_beyond, sample_file
    from culvix.study.whole.survey import survey_whole

    of = SampleOf(options.size, options.seed, options.by or "")
    with progress_shown() as progress, engine_of(options, progress) as engine:
        frame, about = draw_sample(engine, of, query=options.query or "", progress=progress)
        survey = survey_whole(engine, progress=progress) if options.whole or options.beyond is not None else None
        write_beside(engine, options.output, sample_file(frame, about, survey))
        if options.beyond is not None and survey is not None:
            beyond = rows_beyond(engine, survey, "iqr", progress=progress)
            write_beside(engine, options.beyond, frame_file(beyond, ".parquet"))
    return 0
