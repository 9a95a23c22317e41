"""Sheets loaded by a library in a process of its own: what makes the library give up ends that process and no other.

The process gets the file on its standard input and answers on its standard output: the length of a first part and that
part, the cells as texts, and then the cells as numbers, each as an Arrow stream.
"""

import io
import resource
import subprocess
import sys
import time

import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress

__all__ = ["COMMAND", "loaded_sheet", "serve"]

COMMAND = (
    "-c",
    "import sys; from culvix.tables.reading.sheet_process import serve; sys.exit(serve(sys.argv[1], int(sys.argv[2])))",
)
"""What the process runs."""

_REFUSED = 3
"""The status of a process whose library says what is wrong, on standard error."""

_POLL_SECONDS, _SECONDS, _BYTES_A_SECOND = 0.05, 25.0, 500_000
_MEMORY, _MEMORY_RATIO = 900 << 20, 60
"""Bytes that loading may take at the least, and for each byte of the file."""


def loaded_sheet(data: bytes, sheet: str, name: str, progress: Progress) -> tuple[pl.DataFrame, pl.DataFrame]:
    """The cells of a ``sheet`` from A1 on as texts, and those that are numbers as such. Raises ReadError."""
    arguments = [sys.executable, "-P", *COMMAND, sheet, str(len(data))]
    until = time.monotonic() + _SECONDS + len(data) / _BYTES_A_SECOND
    try:
        process = subprocess.Popen(arguments, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    except OSError as error:
        raise ReadError(f"{name} cannot be read: no process can be started ({error.strerror}).") from error
    with process:
        answer, words = b"", b""
        given: bytes | None = data
        try:
            while True:
                progress(0.4, f"loading the sheet {sheet}")
                try:
                    answer, words = process.communicate(given, timeout=_POLL_SECONDS)
                    break
                except subprocess.TimeoutExpired:
                    given = None
                if time.monotonic() > until:
                    raise ReadError(f"{name} takes longer to be read than any table of its size; it is not opened.")
        finally:
            if process.poll() is None:
                process.kill()
    if process.returncode == _REFUSED:
        raise ReadError(f"{name} is damaged or no spreadsheet: {words.decode('utf-8', 'replace').strip()}")
    if process.returncode:
        raise ReadError(f"{name} cannot be read: it takes more memory than any table of its size, or is damaged.")
    length = int.from_bytes(answer[:8], "little")
    texts, numbers = answer[8 : 8 + length], answer[8 + length :]
    return pl.read_ipc_stream(io.BytesIO(texts)), pl.read_ipc_stream(io.BytesIO(numbers))


def serve(sheet: str, size: int) -> int:
    """Load the sheet of the file on standard input, of ``size`` bytes; the exit status."""
    most = _MEMORY + _MEMORY_RATIO * size
    hard = resource.getrlimit(resource.RLIMIT_DATA)[1]
    resource.setrlimit(resource.RLIMIT_DATA, (most if hard == resource.RLIM_INFINITY else min(most, hard), hard))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    import fastexcel

    try:
        book = fastexcel.read_excel(sys.stdin.buffer.read())
        frames = [
            book.load_sheet(sheet, header_row=None, skip_rows=0, dtypes=kind).to_polars()
            for kind in ("string", "float")
        ]
    except fastexcel.FastExcelError as error:
        first = (str(error).strip().splitlines() or ["it is damaged"])[0][:200].rstrip(".")
        print(f"{first}.", file=sys.stderr)
        return _REFUSED
    parts = []
    for frame in frames:
        buffer = io.BytesIO()
        frame.write_ipc_stream(buffer)
        parts.append(buffer.getvalue())
    sys.stdout.buffer.write(len(parts[0]).to_bytes(8, "little") + parts[0] + parts[1])
    return 0
