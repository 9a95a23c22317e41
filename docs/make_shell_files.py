"""Write completions and the manual page, which the package ships, from the parser of the command line."""

from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage

from culvix.cli.commands import whole_parser
from culvix.version import VERSION

HERE = Path(__file__).parents[1] / "src/culvix/cli/shell"
SHELLS = ("bash", "zsh", "fish")


def shell_files() -> dict[Path, str]:
    """Each file and what is to be in it."""
    found = {HERE / f"culvix.{shell}": _completions(shell) for shell in SHELLS}
    page = Manpage(whole_parser())
    page.manual, page.source, page.date = "Culvix", f"Culvix {VERSION}", ""
    return {**found, HERE / "culvix.1": str(page)}


def _completions(shell: str) -> str:
    """The script for ``shell``, without what is for whoever writes one by hand."""
    lines = shtab.complete(whole_parser(), shell=shell).splitlines()
    return "\n".join(line for line in lines if not line.startswith("# ")).strip("\n") + "\n"


if __name__ == "__main__":
    for path, text in shell_files().items():
        path.write_text(text, encoding="utf-8")
        print(path.name)
