"""Every command of the command line in one table: what runs it, its parser, and a line about it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from culvix.cli.clean import clean, clean_parser
from culvix.cli.compare import compare, compare_parser
from culvix.cli.demo import demo, demo_parser
from culvix.cli.desktop import desktop, desktop_parser
from culvix.cli.inspect import inspect, inspect_parser
from culvix.cli.parsing import Parser
from culvix.cli.profile import profile, profile_parser
from culvix.cli.recipes.apply import apply, apply_parser
from culvix.cli.recipes.recipe import recipe, recipe_parser
from culvix.cli.remembered import remembered, remembered_parser
from culvix.cli.report import report, report_parser
from culvix.cli.verify import verify, verify_parser
from culvix.cli.whole.sample import sample, sample_parser
from culvix.cli.whole.tables import tables, tables_parser
from culvix.cli.whole.whole import whole, whole_table_parser
from culvix.cli.window import window_parser

__all__ = ["COMMANDS", "Command", "whole_parser"]


@dataclass(frozen=True)
class Command:
    """``run`` takes the arguments behind the name; ``parser`` makes what reads them; ``about`` is for lists."""

    run: Callable[[Sequence[str]], int]
    parser: Callable[..., Parser]
    about: str


COMMANDS: Mapping[str, Command] = MappingProxyType(
    {
        "inspect": Command(inspect, inspect_parser, "write what reading a file found, as data"),
        "profile": Command(profile, profile_parser, "write every number of the core as data"),
        "report": Command(report, report_parser, "write the report"),
        "clean": Command(clean, clean_parser, "write the table with the decisions of a study applied"),
        "recipe": Command(recipe, recipe_parser, "write what was said of a table, for the next one"),
        "compare": Command(compare, compare_parser, "compare a table with another one"),
        "tables": Command(tables, tables_parser, "list the tables of a server"),
        "whole": Command(whole, whole_table_parser, "survey a whole table of any size where it lies"),
        "sample": Command(sample, sample_parser, "draw rows of a table of any size"),
        "apply": Command(apply, apply_parser, "run a recipe on another table"),
        "verify": Command(verify, verify_parser, "compute a report anew from its source, and compare"),
        "desktop": Command(desktop, desktop_parser, "make studies open with a double click"),
        "remembered": Command(remembered, remembered_parser, "list or erase what Culvix remembers of your work"),
        "demo": Command(demo, demo_parser, "open the example study"),
    }
)
"""What can be asked for by name; anything else is a file to open in a window."""


def whole_parser() -> Parser:
    """One parser for all commands, from which completions and the manual page are made."""
    whole = window_parser()
    whole.usage = "%(prog)s [FILE [--recipe RECIPE]] | COMMAND ..."
    commands = whole.add_subparsers(title="commands", prog="culvix", metavar="COMMAND", parser_class=Parser)
    for name, command in COMMANDS.items():
        made = command.parser(add_help=False)
        commands.add_parser(name, parents=[made], help=command.about, description=made.description)
    return whole
