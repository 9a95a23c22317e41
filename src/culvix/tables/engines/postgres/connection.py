"""A connection to a PostgreSQL server: read only, cancellable, its errors in sentences, its secrets nowhere."""

import logging
from collections.abc import Callable, Iterator, Sequence
from threading import Thread
from time import monotonic
from typing import Any

import adbc_driver_manager
import polars as pl
import sqlalchemy as sa
from adbc_driver_postgresql import dbapi
from sqlalchemy.dialects import postgresql

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.tables.engines.postgres.address import Address, parse_address

__all__ = ["OVERFLOW", "Connection", "ServerError", "without_secrets"]

OVERFLOW = "22003"
"""The state of an answer that no double holds."""
_DIALECT = postgresql.dialect(paramstyle="numeric_dollar")  # type: ignore[no-untyped-call]
_log = logging.getLogger(__name__)
_PATIENCE = 15
"""Seconds until a host that does not answer is given up, where the address does not say it."""
_POLL_SECONDS = 0.02
"""Seconds between two looks at whether the work should stop."""
_LONGEST = 160
"""Letters of what a server says that are passed on."""
_LOCK_MILLISECONDS = 10_000
_CANCEL_SECONDS = 1.2
"""Seconds that a server has to stop what it is asked."""
_given_up: list[object] = []
"""Sessions that do not answer: taken down while a thread waits for them, they would end the process."""

_TWICE = "42701"
_SENTENCES = {
    _TWICE: "two columns have one name; give each its own",
    OVERFLOW: "a number is larger, or nearer to 0, than a double holds",
    "57014": "the question took longer than was allowed, or was cancelled in the server",
    "57P01": "the server ended the connection",
    "57P03": "the server is starting or stopping",
    "08006": "the connection was lost",
    "42501": "permission is missing",
    "42P01": "there is no such table",
    "42601": "the query is not understood",
    "25006": "the query would write, and only reading is allowed",
    "28P01": "the password is wrong or missing; a password file or PGPASSWORD can give it",
    "28000": "this user may not connect",
    "3D000": "there is no such database",
    "40001": "the table changed meanwhile; ask again",
}

_ROWS, _PIECE = "culvix_rows", 200_000
_MARKS = {
    "canceling statement": "57014",
    "terminating connection": "57P01",
    "server closed the connection": "08006",
    "no connection to the server": "08006",
    "multiple fields with name": _TWICE,
    "more than one occurrence": _TWICE,
}
"""By which an error is known that comes without its state."""


class ServerError(ReadError):
    """What a server refused or could not do; ``state`` is its SQLSTATE, empty where there is none."""

    def __init__(self, message: str, state: str = "") -> None:
        super().__init__(message)
        self.state = state


def without_secrets(address: str) -> str:
    """``address`` as it may be shown and kept: without any password. Raises ReadError for one that is none."""
    return parse_address(address).shown


class Connection:
    """One session that can write nothing. All questions up to `release` are answered from one state of the tables."""

    def __init__(self, address: str, *, seconds: float | None = None, progress: Progress = silent) -> None:
        """``seconds`` is how long one question may take. Raises ServerError where no session can be had.

        Raises ReadError for an address that is none, and what ``progress`` raises.
        """
        parsed = parse_address(address)
        self.address, self._secrets = parsed.shown, parsed.secrets
        self._lost = False
        self._session = self._connected(parsed, progress)
        milliseconds = 0 if seconds is None else max(int(1000 * seconds), 1)
        for name, most in (("statement_timeout", milliseconds), ("lock_timeout", _LOCK_MILLISECONDS)):
            # What the server sets for this user is only ever made shorter.
            setting = "SELECT setting::bigint AS most FROM pg_settings WHERE name = $1"
            known = int(self._run(setting, [name], progress, "connecting")["most"][0])
            if most and (not known or most < known):
                self._run(f"SET {name} = {most:d}", None, progress, "connecting", rows=False)
        for setting in (
            "SET default_transaction_read_only = on",
            "SET default_transaction_isolation = 'repeatable read'",
            "SET application_name = 'culvix'",
            # Dates are carried over as text, which is to be one everywhere.
            "SET datestyle = 'ISO, YMD'",
            "SET timezone = 'UTC'",
        ):
            self._run(setting, None, progress, "connecting", rows=False)
        self._session.commit()

    def _connected(self, address: Address, progress: Progress) -> dbapi.Connection:
        """A session, waited for in a thread: a host that does not answer keeps nobody from stopping."""
        found: list[dbapi.Connection] = []
        failed: list[BaseException] = []

        def work() -> None:
            try:
                found.append(dbapi.connect(address.with_secrets(connect_timeout=str(_PATIENCE))))
            except BaseException as error:  # it is raised where the session is waited for
                failed.append(error)

        worker = Thread(target=work, name="connection to a server", daemon=True)
        worker.start()
        while worker.is_alive():
            progress(0.0, "connecting")
            worker.join(_POLL_SECONDS)
        if failed:
            raise _in_words(self.address, failed[0], self._secrets) from None
        return found[0]

    def ask(
        self, question: sa.Select[*tuple[Any, ...]], progress: Progress = silent, doing: str = "asking the server"
    ) -> pl.DataFrame:
        """The rows that answer ``question``. Raises ServerError, and what ``progress`` raises."""
        text, values = _written(question)
        return self._run(text, values or None, progress, doing)

    def fetch(self, question: sa.Select[*tuple[Any, ...]], progress: Progress = silent) -> Iterator[pl.DataFrame]:
        """The rows that answer ``question`` piece by piece, at least one. Raises ServerError."""
        text, values = _written(question)
        self._run(f"DECLARE {_ROWS} NO SCROLL CURSOR FOR {text}", values or None, progress, "asking", rows=False)
        while True:
            piece = self._run(f"FETCH FORWARD {_PIECE} FROM {_ROWS}", None, progress, "fetching")
            yield piece
            if piece.height < _PIECE:
                break
        self._run(f"CLOSE {_ROWS}", None, progress, "fetching", rows=False)

    def ask_text(self, question: str, values: Sequence[object] = ()) -> pl.DataFrame:
        """The rows that answer a question with ``$1`` and so on in place of ``values``. Raises ServerError."""
        return self._run(question, list(values) or None, silent, "asking the server")

    def _run(
        self,
        question: str,
        values: Sequence[object] | None,
        progress: Progress,
        doing: str,
        *,
        rows: bool = True,
    ) -> pl.DataFrame:
        """Run ``question``, which gives ``rows`` or none; one that fails lets the state of the tables go."""
        cursor = self._session.cursor()
        # Copied out, an answer that fails would come without the state by which it is known why.
        cursor.adbc_statement.set_options(**{"adbc.postgresql.use_copy": "false"})
        found: list[pl.DataFrame] = []
        failed: list[BaseException] = []

        def work() -> None:
            try:
                cursor.execute(question, parameters=values)
                if rows:
                    found.append(cursor.fetch_polars())
            except BaseException as error:  # it is raised where the answer is waited for
                failed.append(error)

        worker = Thread(target=work, name="question to a server", daemon=True)
        worker.start()
        try:
            while worker.is_alive():
                progress(0.5, doing)
                worker.join(_POLL_SECONDS)
        except BaseException:
            self._cancel(cursor, worker)
            raise
        finally:
            if not self._lost:
                cursor.close()
        if failed:
            self.release()
            # Libraries on the way of an answer fail in their own ways, even by panics that are no Exception.
            raise _in_words(self.address, failed[0], self._secrets) from failed[0]
        return found[0] if found else pl.DataFrame()

    def _cancel(self, cursor: dbapi.Cursor, worker: Thread) -> None:
        """Let the server stop what it is asked, and wait until it has; one that does not answer is given up."""
        until = monotonic() + _CANCEL_SECONDS
        while worker.is_alive() and monotonic() < until:
            # To ask for it takes a connection, too, which may not come about.
            asking = Thread(target=_quietly, args=(cursor.adbc_cancel,), name="cancelling", daemon=True)
            asking.start()
            asking.join(max(until - monotonic(), 0))
            worker.join(5 * _POLL_SECONDS)
        if worker.is_alive():
            self._lost = True
            _given_up.append((self._session, cursor))
            _log.warning("the server does not answer; the session is given up")
        self.release()

    def release(self) -> None:
        """Let the state of the tables go: the next question is answered from how they are then."""
        if self._lost:
            return
        try:
            self._session.rollback()
        except adbc_driver_manager.Error:
            _log.info("a session that is lost has nothing to let go", exc_info=True)

    def close(self) -> None:
        """End the session."""
        if self._lost:
            return
        try:
            self._session.close()
        except adbc_driver_manager.Error:
            _log.info("a session that is lost cannot be ended", exc_info=True)


def _written(question: sa.Select[*tuple[Any, ...]]) -> tuple[str, list[object]]:
    """``question`` as SQL, with the values that stand in it as parameters."""
    compiled = question.compile(dialect=_DIALECT, compile_kwargs={"render_postcompile": True})
    return str(compiled), [compiled.params[name] for name in compiled.positiontup or ()]


def _quietly(act: Callable[[], object]) -> None:
    """Do ``act``; that it cannot be done is found out by what does not come of it."""
    try:
        act()
    except adbc_driver_manager.Error:
        _log.info("what a server is asked cannot be cancelled", exc_info=True)


def _in_words(address: str, error: BaseException, secrets: Sequence[str]) -> ServerError:
    """What the server or a library says, in a sentence without any secret."""
    whole = str(error)
    state = getattr(error, "sqlstate", None) or next((each for mark, each in _MARKS.items() if mark in whole), "")
    message = (
        whole.split("Query was:")[0].split("ERROR:")[-1].split("FATAL:")[-1].split("LINE ")[0].split("SQLSTATE:")[0]
    )
    for secret in secrets:
        message = message.replace(secret, "…")
    message = " ".join(message.split()).rstrip(" .")
    message = message if len(message) < _LONGEST else f"{message[:_LONGEST]} …"
    why = _SENTENCES.get(state, "" if state or not isinstance(error, adbc_driver_manager.Error) else "no connection")
    return ServerError(f"{address}: {f'{why} ({message})' if why else message}", state)
