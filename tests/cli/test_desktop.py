"""Completions, manual page and the entry for the desktop: made from one parser, put in place and taken away."""

import configparser
import importlib.util
import shutil
import subprocess
import xml.etree.ElementTree as xml
from pathlib import Path

import pytest

from culvix.cli import main
from culvix.cli.commands import COMMANDS, whole_parser
from culvix.cli.desktop import desktop_files
from culvix.study.storage.schema import APPLICATION_ID

DOCS = Path(__file__).parents[2] / "docs"


@pytest.fixture
def data_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    return tmp_path / "data"


def test_what_the_package_ships_is_what_the_parser_gives() -> None:
    place = importlib.util.spec_from_file_location("make_shell_files", DOCS / "make_shell_files.py")
    made = importlib.util.module_from_spec(place)
    place.loader.exec_module(made)
    for path, text in made.shell_files().items():
        assert path.read_text(encoding="utf-8") == text, "run docs/make_shell_files.py"


@pytest.mark.parametrize("name", ["", *COMMANDS])
def test_every_command_has_help(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main([name, "--help"] if name else ["--help"])
    printed = capsys.readouterr()
    assert ended.value.code == 0 and not printed.err
    # The usage of the whole is a list of examples, wider than a narrow terminal.
    assert all(len(line) <= 100 for line in printed.out.splitlines())
    assert f"culvix {name}".strip() in printed.out


def test_options_of_a_command_are_told_by_the_whole_parser(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        whole_parser().parse_args(["apply", "--help"])
    assert "--log LOG.json" in capsys.readouterr().out


@pytest.mark.parametrize(("shell", "check"), [("bash", ["-n"]), ("zsh", ["-n"]), ("fish", ["--no-execute"])])
def test_completions_are_scripts_of_their_shell(data_folder: Path, shell: str, check: list[str]) -> None:
    if shutil.which(shell) is None:
        pytest.skip(f"no {shell} here")
    main(["desktop", "--install"])
    places = {"bash": "bash-completion/completions/culvix", "fish": "fish/vendor_completions.d/culvix.fish"}
    path = data_folder / places.get(shell, "zsh/site-functions/_culvix")
    assert subprocess.run([shell, *check, str(path)], check=False).returncode == 0


def test_bash_completes_commands_and_options(data_folder: Path) -> None:
    main(["desktop", "--install"])
    script = data_folder / "bash-completion/completions/culvix"
    lines = (
        'source "$1"',
        "COMP_WORDS=(culvix apply --l) COMP_CWORD=2",
        "set -- $(complete -p culvix)",
        'while [ "$1" != -F ]; do shift; done',
        '"$2"; echo "${COMPREPLY[@]}"',
    )
    ask = "\n".join(lines)
    told = subprocess.run(["bash", "-c", ask, "bash", str(script)], capture_output=True, text=True, check=True).stdout
    assert "--log" in told.split()


def test_the_entry_is_put_in_place_and_taken_away(data_folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["desktop", "--install"]) == 0
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str
    entry.read(data_folder / "applications/culvix.desktop")
    found = entry["Desktop Entry"]
    assert found["Exec"].endswith(" %f") and "culvix" in found["Exec"]
    kind = xml.parse(data_folder / "mime/packages/culvix.xml").getroot()[0]
    assert kind.attrib["type"] in found["MimeType"].split(";")
    (magic,) = (each.attrib["value"] for each in kind.iter() if each.attrib.get("offset") == "68")
    assert int(magic, 16) == APPLICATION_ID
    assert xml.parse(data_folder / "icons/hicolor/scalable/apps/culvix.svg").getroot().tag.endswith("svg")
    assert all(path.is_file() for path in desktop_files())
    assert main(["desktop", "--remove"]) == 0
    assert not any(path.exists() for path in desktop_files())
    assert main(["desktop", "--remove"]) == 0, "what is not there is no trouble"
    assert "was taken away" in capsys.readouterr().out


def test_a_folder_that_cannot_be_written_is_told(data_folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    data_folder.write_text("a file stands where the folder should")
    assert main(["desktop", "--install"]) == 2
    assert capsys.readouterr().err.count("\n") == 1
