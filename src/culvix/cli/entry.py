"""Where the command line begins: which command is meant, and the exit status it ends with."""

import sys
from collections.abc import Sequence

from culvix.cli.commands import COMMANDS
from culvix.cli.stopping import ending_in_order
from culvix.cli.window import open_window
from culvix.errors import CulvixError
from culvix.files import remove_stale_files
from culvix.places import mend_permissions, remove_stale_scratch

__all__ = ["main"]


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; the exit status is 0, or 2 with one line on standard error for a user's mistake."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    remove_stale_files()
    remove_stale_scratch()
    mend_permissions()
    command = COMMANDS.get(given[0]) if given else None
    try:
        with ending_in_order():
            return command.run(given[1:]) if command else open_window(given)
    except CulvixError as error:
        print(f"culvix: {error.sentence}", file=sys.stderr)
        return 2
    except MemoryError:
        print("culvix: there is not enough memory for this; read a part of the file.", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("culvix: stopped; nothing was written.", file=sys.stderr)
        return 130
