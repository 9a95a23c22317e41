"""A line under the spans: what each method flags, beside what it would flag of a normal column by chance."""

from PyQt6.QtWidgets import QVBoxLayout

from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.parts import label
from culvix.progress import Progress
from culvix.study.analysis.outliers.chance_messages import chance_text
from culvix.study.analysis.outliers.flags import Flags

__all__ = ["ChanceLine"]


class ChanceLine(LazyPane):
    """Counted in the background; empty while it is not known for what is shown."""

    patience = 150

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._of: Flags | None = None
        self.text = label("", "quiet", wrap=True)
        self.text.setToolTip(
            "Whatever the values are, a rule flags some. Where it flags about as many as of a normal column of this n, "
            "its flags alone speak against no value."
        )
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 0, 8, 2)
        layout.addWidget(self.text)
        for change in (hub.previewed, hub.focus_changed, hub.data_changed, hub.analysed):
            change.connect(self.request_refresh)

    def refresh(self) -> None:
        """Count for the column in focus, unless that is shown."""
        preview = self.hub.preview
        flags = None if preview is None else preview.flags
        if flags is self._of and flags is not None:
            return
        self._of = flags
        self.text.setText("")
        if preview is None:
            return

        def work(progress: Progress) -> str:
            return chance_text(
                preview.flags, preview.flag_basis.n, preview.request.settings, preview.column.name, progress
            )

        def arrived(message: str) -> None:
            if self._of is preview.flags:
                self.text.setText(message)

        self.hub.start("flags by chance", work, arrived, priority=2, quiet=True)
