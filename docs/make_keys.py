"""Write docs/keys.md from the table of commands, with what the mouse does."""

from collections.abc import Iterable
from pathlib import Path

from culvix.app.shell.commands import SECTIONS

KEYS = Path(__file__).parent / "keys.md"
SPELLED = {"PgDown": "Page Down", "PgUp": "Page Up", "Return": "Enter"}

INTRO = """# Keys and the mouse

Single letters, digits and Enter act on the data: on a picture, on the rows, on the list of flagged values. In a field,
a box or another list they are what is typed there; Esc leaves it. Keys with Ctrl, Alt and F keys hold everywhere. In
the text being typed Ctrl+Z takes back the typing, everywhere else the latest act. Tab goes to the next pane, field or
button; within a table or list the arrows move. Enter on a line of the Survey opens the column in Shape, and
Ctrl+Shift+C copies the lines.
"""

NOTES = {
    "Questions and decisions": """What a decision would be about stands above the acts, with n before and after. More
than 100 values, or more than 5 % of a column, are confirmed first: Enter does it, Esc leaves it. Values are decided on
while their column is in view; a selection made in another column waits for you there. A value takes a digit, a letter
and N; or, where the same is decided as before, a digit and Enter.
""",
    "Columns and pictures": """In the list of lanes Space ticks, Ctrl with an arrow moves, + and − make larger and
smaller.
""",
}

MOUSE = (
    ("click, drag", "select what is under the pointer, or between the ends; with Ctrl toggle, with Shift add"),
    ("wheel; right or middle drag", "zoom and move the value axis"),
    (
        "drag the foot of a bin's edge",
        "the width of the bins, the first edge their start, on round numbers; with Shift freely",
    ),
    (
        "drag an end of a span",
        "the limit of the method, for all columns or this one as ticked under Methods; with Ctrl this end alone",
    ),
    ("drag a side of the kernel", "the bandwidth"),
    ("Ctrl with the wheel on histogram or density", "wider or narrower bins, bandwidth"),
    ("Alt with a click", "the probe goes to the pointer"),
    ("drag the line between two lanes", "share their height; a double click gives the usual heights"),
)


def keys_document() -> str:
    """The whole document."""
    parts = [INTRO]
    for title, commands in SECTIONS.items():
        # A trailing ellipsis tells on a menu that more is asked.
        lines = [(_spelled(each.keys), each.text.removesuffix(" …")) for each in commands if each.keys]
        parts.append(f"## {title}\n\n" + (f"{NOTES[title]}\n" if title in NOTES else "") + _table(lines))
    return "\n".join([*parts, f"## The mouse on a picture\n\n{_table(MOUSE)}"])


def _spelled(keys: Iterable[str]) -> str:
    return ", ".join(dict.fromkeys(SPELLED.get(key, key) for key in keys))


def _table(rows: Iterable[tuple[str, str]]) -> str:
    lines = [f"| {keys} | {text} |" for keys, text in rows]
    return "\n".join(["| Key | What it does |", "|---|---|", *lines]) + "\n"


if __name__ == "__main__":
    KEYS.write_text(keys_document(), encoding="utf-8")
    print(KEYS.name)
