"""The one family of errors that a user can cause.

Each carries a sentence that says what happened, where, and what can be done about it. The window shows
it in place; the command line prints it on one line and ends with status 2.
"""

__all__ = ["Cancelled", "CulvixError", "DecisionError", "ReadError", "StatisticsError", "WriteError"]


class CulvixError(Exception):
    """Base of every error a user can cause."""

    @property
    def sentence(self) -> str:
        """The message on one line, fit to be shown."""
        return " ".join(str(self).split())


class ReadError(CulvixError):
    """A file could not be read as a table."""


class WriteError(CulvixError):
    """A file could not be written."""


class StatisticsError(CulvixError, ValueError):
    """A statistic was asked for with settings it does not have."""


class DecisionError(CulvixError, ValueError):
    """A decision names a column, a row or a value that cannot be decided on."""


class Cancelled(CulvixError):
    """The work was stopped on request before it was complete."""
