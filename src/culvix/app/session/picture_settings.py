"""How the column in focus is pictured, changed as one act that can be undone."""

from dataclasses import replace

from culvix.app.session.hub import Hub
from culvix.study.document.choices.settings import ColumnSettings

__all__ = ["change_axis_scale", "change_picture"]


def change_picture(hub: Hub, gesture: object = None, **changes: object) -> None:
    """Change how the column in focus is pictured; the steps of one ``gesture`` are one act.

    Raises StatisticsError where that cannot be.
    """
    if hub.focus is not None:
        _change(hub, hub.focus, replace(hub.study.settings.of(hub.focus), **changes), gesture)  # type: ignore[arg-type]


def _change(hub: Hub, column: str, chosen: ColumnSettings, gesture: object = None) -> None:
    study = hub.study
    if chosen != study.settings.of(column):
        settings = study.settings.with_column(column, chosen)
        study.workspace.check_picture(column, chosen)
        study.change_settings(settings, gesture)


def change_axis_scale(hub: Hub, key: str, column: str | None = None) -> None:
    """Let the axis of all pictures of ``column``, by default of that in focus, have the scale ``key``.

    Raises StatisticsError where the scale has no place for some of its values.
    """
    name = column or hub.focus
    if name is not None:
        _change(hub, name, hub.study.settings.of(name).with_axis_scale(key))
