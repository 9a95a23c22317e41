"""How the column in focus is pictured, changed as one act that can be undone."""

from dataclasses import fields, replace

from culvix.app.session.hub import Hub
from culvix.study.document.settings import ColumnSettings

__all__ = ["change_axis_scale", "change_picture"]


def change_picture(hub: Hub, gesture: object = None, **changes: object) -> None:
    """Change how the column in focus is pictured; the steps of one ``gesture`` are one act.

    Raises StatisticsError where that cannot be.
    """
    study, focus = hub.study, hub.focus
    if focus is None:
        return
    chosen: ColumnSettings = replace(study.settings.of(focus), **changes)  # type: ignore[arg-type]
    if chosen != study.settings.of(focus):
        settings = study.settings.with_column(focus, chosen)
        study.workspace.check_picture(focus, chosen)
        study.change_settings(settings, gesture)


def change_axis_scale(hub: Hub, key: str) -> None:
    """Let the axis of all pictures of the column in focus have the scale ``key``.

    Raises StatisticsError where the scale has no place for some of its values.
    """
    if hub.focus is not None:
        chosen = hub.study.settings.of(hub.focus).with_axis_scale(key)
        change_picture(hub, **{field.name: getattr(chosen, field.name) for field in fields(chosen)})
