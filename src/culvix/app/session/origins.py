"""Where selections come from that need no words beside them: the analyst sees what was clicked."""

__all__ = ["LIST_ORIGIN", "TRAY_ORIGIN"]

LIST_ORIGIN = "agreement list"
TRAY_ORIGIN = "tray"
