"""A PostgreSQL server of the tests' own: started by an unprivileged user, on a socket that nobody else sees."""

import os
import pwd
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from adbc_driver_postgresql import dbapi


def _user() -> str | None:
    """A server refuses to run as root; whoever else runs the tests runs it, too."""
    if os.geteuid():
        return None
    names = {each.pw_name for each in pwd.getpwall()}
    return "postgres" if "postgres" in names else "nobody"


def _programs() -> Path:
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda each: float(each.parts[-3]))
    return found[-1].parent if found else Path(shutil.which("initdb") or "initdb").parent


class Server:
    """Runs in ``folder``, where its socket is; the user called postgres may do everything."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def address(self, user: str = "postgres") -> str:
        return f"postgresql:///postgres?host={self.folder}&user={user}"

    def run(self, *statements: str) -> None:
        """Run ``statements`` as the one who may do everything."""
        with dbapi.connect(self.address()) as session, session.cursor() as cursor:
            for statement in statements:
                cursor.execute(statement)
            session.commit()

    def load(self, name: str, frame: object) -> None:
        """Make the table ``name`` of a frame."""
        with dbapi.connect(self.address()) as session, session.cursor() as cursor:
            cursor.adbc_ingest(name, frame, mode="replace")
            session.commit()
        self.run(f'analyze "{name}"')


@contextmanager
def server() -> Iterator[Server]:
    """A server for as long as it is needed."""
    folder, user, programs = Path(tempfile.mkdtemp(prefix="culvix-server-")), _user(), _programs()
    if user is not None:
        shutil.chown(folder, user)
    start = [programs / "postgres", "-D", folder / "data", "-k", folder, "-c", "listen_addresses=", "-c", "fsync=off"]
    initial = [programs / "initdb", "-D", folder / "data", "-A", "trust", "-U", "postgres", "-E", "UTF8", "--locale=C"]
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "cwd": folder, "user": user}
    subprocess.run([*initial, "--no-sync"], check=True, **quiet)  # type: ignore[call-overload]
    running = subprocess.Popen(start, **quiet)  # type: ignore[call-overload]
    try:
        ready = [programs / "pg_isready", "-h", folder]
        for _ in range(600):
            if not subprocess.run(ready, stdout=subprocess.DEVNULL, check=False).returncode:
                break
            time.sleep(0.05)
        yield Server(folder)
    finally:
        running.send_signal(2)
        running.wait(60)
        shutil.rmtree(folder, ignore_errors=True)
