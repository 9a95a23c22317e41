"""What can be done by a key or from a menu, in one table that menus, shortcuts and the list of keys share."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from culvix.app.docks.decision_bar import ACT_KEYS
from culvix.app.shape.views import VIEWS
from culvix.app.shell.controllers.acting import Acting
from culvix.app.shell.controllers.keeping import Keeping
from culvix.app.shell.controllers.opening import Opening
from culvix.app.shell.controllers.saving import Saving
from culvix.app.shell.stages import STAGES
from culvix.app.shell.theme import THEMES
from culvix.app.shell.workbench import Workbench
from culvix.study.document.decisions import Cause, DecisionKind

__all__ = ["COMMANDS", "MENUS", "SECTIONS", "Command", "Controllers"]

MENUS = {"Study": "&Study", "Decide": "&Decide", "View": "&View"}
"""The menus, and how they are written in the menu bar."""


@dataclass(frozen=True)
class Controllers:
    """What commands act on; ``close`` leaves the program."""

    opening: Opening
    saving: Saving
    keeping: Keeping
    acting: Acting
    close: Callable[[], object]


Act = Callable[[Controllers], object]


@dataclass(frozen=True)
class Command:
    """``act`` is done by any of ``keys``; it stands in ``menu`` where that is not empty.

    ``needs_study``: it can be done only while a table is open. ``separated``: a line is drawn above it in the menu.
    """

    text: str
    act: Act
    keys: tuple[str, ...] = ()
    menu: str = ""
    needs_study: bool = True
    separated: bool = False
    name: str = field(default="", compare=False)


def _save_picture(bench: Workbench) -> None:
    """Offer to save the picture in view; where the stage has none, there is nothing to do."""
    button = bench.page(bench.stage).picture_button
    if button is not None:
        button.showMenu()


def _with_bench(act: Callable[[Workbench], object]) -> Act:
    """``act`` on the workbench, where there is one."""

    def on_bench(controllers: Controllers) -> object:
        bench = controllers.acting.context.bench
        return None if bench is None else act(bench)

    return on_bench


def _decide(kind: DecisionKind) -> Act:
    return _with_bench(lambda bench: bench.tray.bar.decide(kind))


def _choose_cause(position: int) -> Act:
    return _with_bench(lambda bench: bench.tray.bar.choose_cause(position))


def _show_stage(position: int) -> Act:
    return lambda c: c.acting.show_stage(position)


def _show_view(position: int) -> Act:
    return lambda c: c.acting.show_view(position)


def _toggle(pane: str) -> Act:
    return lambda c: c.acting.toggle_pane(pane)


def _choose_theme(theme: str) -> Act:
    return lambda c: c.acting.choose_theme(theme)


def _step_probe(by: int) -> Act:
    return _with_bench(lambda bench: bench.shape.stage.probe.step(by))


def _choose_lanes(bench: Workbench) -> None:
    if bench.stage == "Shape":
        bench.shape.stage.lanes.showMenu()


def _connect(controllers: Controllers) -> None:
    controllers.opening.connecting.ask()


def _remembered(controllers: Controllers) -> None:
    controllers.opening.preferring.ask_remembered()


def _study_menu() -> tuple[Command, ...]:
    menu = "Study"
    return (
        Command("Open a file …", lambda c: c.opening.ask_open(), ("Ctrl+O",), menu, needs_study=False),
        Command("Open what was copied", lambda c: c.opening.open_copied(), ("Ctrl+Shift+V",), menu, needs_study=False),
        Command("Open where it lies: server, large table …", _connect, (), menu, needs_study=False),
        Command("Open the example study", lambda c: c.opening.open_demo(), (), menu, needs_study=False),
        Command("Save the study as …", lambda c: c.keeping.ask_save_as(), ("Ctrl+Shift+S",), menu, separated=True),
        Command("Save a copy …", lambda c: c.keeping.ask_copy(), (), menu),
        Command("Save the recipe as …", lambda c: c.saving.ask_recipe(), (), menu),
        Command("Run a recipe on this table …", lambda c: c.opening.ask_recipe(), (), menu),
        Command("Conventions for new studies …", lambda c: c.opening.preferring.ask(), (), menu, needs_study=False),
        Command(
            "What Culvix remembers …", lambda c: c.opening.preferring.ask_remembered(), (), menu, needs_study=False
        ),
        Command("Save report …", lambda c: c.saving.ask_report(), ("Ctrl+R",), menu, separated=True),
        Command("Save cleaned data …", lambda c: c.saving.ask_cleaned(), (), menu),
        Command("Save cleaned data with a trace of decisions …", lambda c: c.saving.ask_cleaned(trace=True), (), menu),
        Command("Save the cleaned whole of a sample …", lambda c: c.saving.ask_cleaned_whole(), (), menu),
        Command("Save rows of the whole beyond the fences …", lambda c: c.saving.ask_rows_beyond(), (), menu),
        Command("Save flagged values …", lambda c: c.saving.ask_flagged(), (), menu),
        Command("Open a second window", lambda c: c.opening.open_window(), ("Ctrl+Shift+N",), menu, needs_study=False),
        Command("Quit", lambda c: c.close(), ("Ctrl+Q",), menu, needs_study=False, separated=True),
    )


def _decide_menu() -> tuple[Command, ...]:
    menu = "Decide"
    flagged = _with_bench(lambda bench: bench.shape.stage.select_flagged())
    return (
        # Both spellings of redo in use on the platform, whatever its theme makes of the standard key.
        Command("Undo", lambda c: c.acting.undo(), ("Ctrl+Z",), menu, name="undo"),
        Command("Redo", lambda c: c.acting.redo(), ("Ctrl+Shift+Z", "Ctrl+Y"), menu, name="redo"),
        Command("Select flagged values not decided", flagged, ("Ctrl+F",), menu, separated=True),
        Command("Clear the selection", lambda c: c.acting.leave(), ("Esc",), menu),
    )


def _reviewing() -> tuple[Command, ...]:
    acts = (Command(str(kind).capitalize(), _decide(kind), (key,)) for kind, key in ACT_KEYS.items())
    causes = (
        Command(f"Cause: {cause}", _choose_cause(position), (str(position),)) for position, cause in enumerate(Cause)
    )
    return (
        Command("Next open question", _with_bench(lambda bench: bench.next_question()), ("J",)),
        Command("Open questions, or none", _with_bench(lambda bench: bench.toggle_questions()), ("Shift+J",)),
        Command("Next flagged value not decided", _with_bench(lambda bench: bench.step(1)), ("N",)),
        Command("Flagged value before", _with_bench(lambda bench: bench.step(-1)), ("Shift+N",)),
        *acts,
        Command("Type a correction", _with_bench(lambda bench: bench.tray.bar.type_correction()), ("C",)),
        Command("Exchange with another column", _with_bench(lambda bench: bench.tray.bar.ask_exchange()), ("X",)),
        *causes,
        Command("Type a reason", _with_bench(lambda bench: bench.tray.bar.type_reason()), ("Ctrl+L",)),
        Command(
            "Decide as the line above the acts says, and on to the next",
            _with_bench(lambda bench: bench.tray.bar.decide_and_go_on()),
            ("Return", "Enter"),
        ),
        Command(
            "What if: drag the selected value", _with_bench(lambda bench: bench.outliers.stage.trying.toggle()), ("W",)
        ),
    )


def _view_menu() -> tuple[Command, ...]:
    menu = "View"
    return (
        Command("Guide", lambda c: c.acting.ask_guide(), ("F1",), menu, needs_study=False),
        *(
            Command(stage, _show_stage(position), (f"Ctrl+{position + 1}",), menu, separated=not position)
            for position, stage in enumerate(STAGES)
        ),
        *(
            Command(
                f"Shape: {name.lower()}", _show_view(position), (f"Alt+{position + 1}",), menu, separated=not position
            )
            for position, name in enumerate(VIEWS)
        ),
        Command("Values run upwards or to the right", lambda c: c.acting.turn_lanes(), ("U",), menu),
        Command("Show or hide: Columns", _toggle("rail"), ("F7",), menu, separated=True),
        Command("Show or hide: Margin", _toggle("margins"), ("F8",), menu),
        Command("Show or hide: Rows", _toggle("tray"), ("F9",), menu),
        Command("Full screen", lambda c: c.acting.toggle_full_screen(), ("F11",), menu, needs_study=False),
        *(
            Command(f"Theme: {name}", _choose_theme(theme), (), menu, needs_study=False, separated=theme == "desktop")
            for theme, name in THEMES.items()
        ),
    )


def _looking() -> tuple[Command, ...]:
    return (
        Command("Find a column", _with_bench(lambda bench: bench.rail.search.setFocus()), ("Ctrl+K",)),
        Command("Next column", _with_bench(lambda bench: bench.rail.step(1)), ("PgDown",)),
        Command("Column before", _with_bench(lambda bench: bench.rail.step(-1)), ("PgUp",)),
        Command("Tick the column as reviewed", _with_bench(lambda bench: bench.shape.stage.toggle_reviewed()), ("R",)),
        Command("Fit the value axis", _with_bench(lambda bench: bench.shape.stage.stack.fit()), ("F",)),
        Command(
            "Fit the bulk of the values, or all", _with_bench(lambda b: b.shape.stage.axis.toggle_bulk()), ("Shift+F",)
        ),
        Command("Fields beside the lanes", _with_bench(lambda bench: bench.shape.stage.adjust.toggle()), ("A",)),
        Command("Choose the lanes", _with_bench(_choose_lanes), ("L",)),
        Command(
            "Leave or take away a second probe", _with_bench(lambda b: b.shape.stage.probe.bar.toggle_pin()), ("B",)
        ),
        Command("Probe one value up", _step_probe(1), ("Alt+Right", "Alt+Up")),
        Command("Probe one value down", _step_probe(-1), ("Alt+Left", "Alt+Down")),
        Command("Save or copy the picture", _with_bench(_save_picture), ("Ctrl+P",)),
    )


SECTIONS: Mapping[str, tuple[Command, ...]] = MappingProxyType(
    {
        "The study": _study_menu(),
        "Taking back, selecting": _decide_menu(),
        "Questions and decisions": _reviewing(),
        "Stages, views and panes": _view_menu(),
        "Columns and pictures": _looking(),
    }
)
"""Every command, by what it is about."""

COMMANDS: tuple[Command, ...] = tuple(command for commands in SECTIONS.values() for command in commands)
"""Every command, in the order of the menus."""
