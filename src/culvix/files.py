"""Writing a file so that it is there whole or not at all."""

import os
import tempfile
from pathlib import Path

from culvix.errors import WriteError

__all__ = ["write_whole"]


def write_whole(path: Path, content: bytes) -> None:
    """Write ``content`` to ``path`` through a temporary file beside it. Raises WriteError with a sentence."""
    temporary: str | None = None
    try:
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(content)
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        raise WriteError(f"{path} cannot be written: {(error.strerror or 'unknown error').lower()}.") from error
    finally:
        if temporary is not None and os.path.exists(temporary):
            os.unlink(temporary)
