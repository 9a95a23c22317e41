"""`culvix profile`: every number of the core as data."""

import argparse
import os
from collections.abc import Sequence

from culvix.cli.parsing import Parser, add_study_options, file_parser, listed, progress_shown, study_of

_SEED = 20260318

__all__ = ["profile", "profile_parser"]


def _add_extras(parser: Parser) -> None:
    parser.add_argument(
        "--with",
        dest="add",
        action="append",
        default=[],
        metavar="NAME",
        help="add bootstrap, intervals, monte_carlo, transformations, unimodality, robust_correlation, "
        "distance_correlation, bootstrap_correlation or multivariate, or kendall for more than 100 000 rows; "
        "repeatable, or several with commas",
    )
    parser.add_argument("--by", metavar="COLUMN", help="add outliers and correlations within the groups of COLUMN")
    parser.add_argument("--given", default="", metavar="A,B", help="add correlations with these columns held fixed")
    parser.add_argument("--seed", type=int, default=_SEED, help=f"seed of random figures (default {_SEED})")
    parser.add_argument("--repeats", type=int, metavar="N", help="repeats of random figures (default: by figure)")


def _positive(text: str) -> int:
    value = int(text)
    if value < 1:
        raise argparse.ArgumentTypeError("a number from 1 up is needed")
    return value


def profile_parser(*, add_help: bool = True) -> Parser:
    about = "Write every number of the core for FILE as a JSON document (format culvix-profile/2)."
    parser = file_parser("profile", about, add_help=add_help)
    add_study_options(parser, "json")
    parser.add_argument("--columns", metavar="A,B", help="profile these columns only")
    parser.add_argument("--no-correlation", action="store_true", help="leave the correlation matrices out")
    _add_extras(parser)
    parser.add_argument("--jobs", type=_positive, default=os.cpu_count() or 1, metavar="N", help="columns at a time")
    return parser


def profile(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = profile_parser().parse_args(arguments)
    import msgspec

    from culvix.files import write_whole
    from culvix.report.documents.profile import profile_document
    from culvix.report.documents.profile_extras import Asked

    with progress_shown() as progress:
        study = study_of(options, lambda share, doing: progress(0.3 * share, doing))
        document = profile_document(
            study.workspace,
            columns=None if options.columns is None else listed(options.columns),
            missing_codes=options.missing,
            with_correlation=not options.no_correlation,
            asked=Asked(
                frozenset(listed(",".join(options.add))),
                options.by,
                tuple(listed(options.given)),
                options.seed,
                options.repeats,
            ),
            jobs=options.jobs,
            progress=lambda share, doing: progress(0.3 + 0.7 * share, doing),
        )
        write_whole(
            options.output, msgspec.json.encode(document) + b"\n", sources=(options.file, study.table.source.path)
        )
    return 0
