"""Where the command line begins: which command is meant, and the exit status it ends with."""

import sys
from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType

from culvix.cli.apply import apply
from culvix.cli.clean import clean
from culvix.cli.demo import demo
from culvix.cli.inspect import inspect
from culvix.cli.profile import profile
from culvix.cli.recipe import recipe
from culvix.cli.report import report
from culvix.cli.stopping import ending_in_order
from culvix.cli.window import open_window
from culvix.errors import CulvixError
from culvix.files import remove_stale_files

__all__ = ["COMMANDS", "main"]

COMMANDS: Mapping[str, Callable[[Sequence[str]], int]] = MappingProxyType(
    {
        "inspect": inspect,
        "profile": profile,
        "report": report,
        "clean": clean,
        "recipe": recipe,
        "apply": apply,
        "demo": demo,
    }
)
"""What can be asked for by name; anything else is a file to open in a window."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; the exit status is 0, or 2 with one line on standard error for a user's mistake."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    remove_stale_files()
    command = COMMANDS.get(given[0]) if given else None
    try:
        with ending_in_order():
            return command(given[1:]) if command else open_window(given)
    except CulvixError as error:
        print(f"culvix: {error.sentence}", file=sys.stderr)
        return 2
    except MemoryError:
        print("culvix: there is not enough memory for this; read a part of the file.", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("culvix: stopped; nothing was written.", file=sys.stderr)
        return 130
