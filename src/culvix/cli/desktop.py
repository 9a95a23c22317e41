"""`culvix desktop`: an entry for the user's desktop, so that studies open with a double click, and completions."""

import os
import shutil
import subprocess
import sys
from collections.abc import Mapping, Sequence
from importlib import resources
from pathlib import Path

from culvix.cli.parsing import Parser
from culvix.errors import WriteError
from culvix.files import display_path

__all__ = ["desktop", "desktop_files", "desktop_parser"]

_MIME = "application/vnd.culvix.study+sqlite3"

_ENTRY = """[Desktop Entry]
Type=Application
Version=1.5
Name=Culvix
GenericName=Profile of a table
Comment=Profile the numeric columns of a table, decide about outliers, and report
Exec={command} %f
Icon=culvix
Terminal=false
Categories=Science;Math;DataVisualization;
MimeType={mime};text/csv;text/tab-separated-values;
StartupWMClass=culvix
"""

_TYPE = """<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{mime}">
    <comment>Culvix study</comment>
    <icon name="culvix"/>
    <sub-class-of type="application/vnd.sqlite3"/>
    <magic priority="70">
      <match type="string" offset="0" value="SQLite format 3">
        <match type="big32" offset="68" value="0x43564C58"/>
      </match>
    </magic>
    <glob pattern="*.culvix"/>
  </mime-type>
</mime-info>
"""

_SHIPPED: Mapping[str, str] = {
    "culvix.bash": "bash-completion/completions/culvix",
    "culvix.fish": "fish/vendor_completions.d/culvix.fish",
    "culvix.zsh": "zsh/site-functions/_culvix",
    "culvix.1": "man/man1/culvix.1",
}
"""Files of the package, and where they go in the user's data folder (XDG Base Directory)."""

_REFRESHED = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))


def desktop_parser(*, add_help: bool = True) -> Parser:
    parser = Parser(
        prog="culvix desktop",
        add_help=add_help,
        description="Put an entry for Culvix among the applications of this user, with its icon, the type of study "
        "files, completions for bash, zsh and fish, and the manual page; or take all of that away again.",
    )
    way = parser.add_mutually_exclusive_group(required=True)
    way.add_argument("--install", action="store_true", help="put the entry there")
    way.add_argument("--remove", action="store_true", help="take it away")
    return parser


def _data_folder() -> Path:
    import os

    named = os.environ.get("XDG_DATA_HOME", "")
    if Path(named).is_absolute():
        return Path(named)
    if not os.path.isabs(os.environ.get("HOME", "")):
        raise WriteError("It is not known where this user's files are: neither HOME nor XDG_DATA_HOME is set.")
    return Path.home() / ".local/share"


def _command() -> str:
    """How the program is started by the desktop: by its launcher, or by the Python that runs it now."""
    launcher = Path(__file__).resolve().parents[3] / "culvix"
    parts = [str(launcher)] if os.path.isfile(launcher) else [sys.executable, "-P", "-m", "culvix"]
    return " ".join(_quoted(part) for part in parts)


def _quoted(part: str) -> str:
    """A word as the Exec key of a desktop entry has it."""
    for character in ("\\", '"', "`", "$"):
        part = part.replace(character, f"\\{character}")
    # In a value the backslash itself stands behind another one.
    return '"' + part.replace("\\", "\\\\").replace("%", "%%") + '"'


def desktop_files() -> dict[Path, bytes]:
    """Every file of the entry, and what is in it."""
    folder, shipped = _data_folder(), resources.files("culvix.cli") / "shell"
    icon = resources.files("culvix.app.shell") / "icons" / "culvix.svg"
    return {
        folder / "applications/culvix.desktop": _ENTRY.format(command=_command(), mime=_MIME).encode("utf-8"),
        folder / "mime/packages/culvix.xml": _TYPE.format(mime=_MIME).encode("utf-8"),
        folder / "icons/hicolor/scalable/apps/culvix.svg": icon.read_bytes(),
        **{folder / target: (shipped / name).read_bytes() for name, target in _SHIPPED.items()},
    }


def desktop(arguments: Sequence[str]) -> int:
    """Run the command; the exit status. Raises CulvixError for what a user can cause."""
    options = desktop_parser().parse_args(arguments)
    for path, content in desktop_files().items():
        try:
            if options.install:
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(content)
            else:
                path.unlink(missing_ok=True)
        except OSError as error:
            raise WriteError(f"{display_path(path)} cannot be written: {(error.strerror or '').lower()}.") from error
    for program, part in _REFRESHED:
        # Where a desktop has no such program it looks at the files itself.
        found, folder = shutil.which(program), _data_folder() / part
        if found is not None and os.path.isdir(folder):
            subprocess.run([found, str(folder)], check=False, capture_output=True)
    what = "is in place" if options.install else "was taken away"
    print(f"The entry for Culvix {what} ({display_path(_data_folder())}).")
    return 0
