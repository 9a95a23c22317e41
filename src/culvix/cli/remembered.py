"""`culvix remembered`: what the program remembers of its user's work, seen and erased."""

from collections.abc import Sequence
from datetime import timedelta

from culvix.cli.parsing import Parser
from culvix.errors import CulvixError

__all__ = ["remembered", "remembered_parser"]

_KINDS = ("drafts", "recent", "pasted", "samples", "sources", "log")
_MOST_DAYS = 100_000


def remembered_parser(*, add_help: bool = True) -> Parser:
    parser = Parser(
        prog="culvix remembered",
        add_help=add_help,
        description="List what Culvix remembers of your work on this machine, or erase it: drafts, the list of files "
        "opened lately, pasted tables, samples, tables unpacked from studies, the log. Studies that you saved and your "
        "tables are never touched.",
    )
    parser.add_argument("--erase", action="append", choices=(*_KINDS, "all"), help="erase this kind; repeatable")
    parser.add_argument("--older-than", type=float, metavar="DAYS", help="erase only what is older than DAYS")
    return parser


def remembered(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = remembered_parser().parse_args(arguments)
    from culvix.stats.display import file_size, plural
    from culvix.study.storage.remembered import KINDS, erase
    from culvix.study.storage.remembered import remembered as rows

    if options.older_than is not None:
        if not options.erase:
            raise CulvixError("Say with --erase what is to be erased.")
        if not 0 <= options.older_than <= _MOST_DAYS:
            raise CulvixError(f"The number of days is one from 0 to {_MOST_DAYS}.")
    if not options.erase:
        for row in rows():
            since = "" if row.oldest is None else f", the oldest of {row.oldest.astimezone():%Y-%m-%d}"
            print(f"{row.kind:8}{row.many:6}  {file_size(row.size):>10}  {KINDS[row.kind]}{since}")
        return 0
    kinds = _KINDS if "all" in options.erase else tuple(dict.fromkeys(options.erase))
    days = None if options.older_than is None else timedelta(days=options.older_than)
    print(f"{plural(erase(kinds, days), 'thing')} erased.")
    return 0
