"""`culvix whole`: a survey of a whole table by the engine that holds it."""

from collections.abc import Sequence

from culvix.cli.outputs import check_outputs
from culvix.cli.parsing import Parser, path_of_file, progress_shown
from culvix.cli.whole.engine_options import engine_of, engine_parser, write_beside

__all__ = ["whole", "whole_table_parser"]


def whole_table_parser(*, add_help: bool = True) -> Parser:
    about = (
        "Survey a table of any size where it lies, in a server or in files that no memory holds (.json: format "
        "culvix-whole/1)."
    )
    parser = engine_parser("whole", about, add_help=add_help)
    parser.add_argument("-o", "--output", metavar="OUT.json", type=path_of_file, required=True, help="file to write")
    parser.add_argument(
        "--quantile-type", type=int, default=7, metavar="1-9", help="definition of quantiles (default 7, inclusive)"
    )
    parser.add_argument(
        "--study",
        metavar="STUDY",
        type=path_of_file,
        help="count how many rows of the whole each of its decisions by rule meets",
    )
    return parser


def whole(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = whole_table_parser().parse_args(arguments)
    check_outputs([options.output], (".json",))
    import msgspec

    from culvix.errors import CulvixError
    from culvix.stats.core.quantiles import QUANTILE_TYPES
    from culvix.study.storage.reopening import reopen
    from culvix.study.whole.conditions import count_decisions
    from culvix.study.whole.survey import WholeSettings, survey_whole
    from culvix.study.whole.whole_document import decisions_document, whole_document

    if options.quantile_type not in QUANTILE_TYPES:
        raise CulvixError(f"There is no quantile type {options.quantile_type}; the types are 1 to 9.")
    with progress_shown() as progress, engine_of(options, progress) as engine:
        found = survey_whole(engine, WholeSettings(options.quantile_type), progress=progress)
        document = whole_document(found)
        if options.study is not None:
            study = reopen(options.study, progress)
            document["decisions"] = decisions_document(count_decisions(engine, study.workspace, progress))
        write_beside(engine, options.output, msgspec.json.encode(document) + b"\n")
    return 0
