"""The command line: open a window, profile a file, write its report, or run the example. One module a command."""

from culvix.cli.entry import main

__all__ = ["main"]
