"""The probe on the column in focus: where it stands is part of the study, and shows in the lanes and in the bar."""

import numpy as np

from culvix.app.lanes.probe_bar import ProbeBar
from culvix.app.session.hub import Hub
from culvix.charts.lanes.stack import LaneStack

__all__ = ["Probe"]


class Probe:
    """Moves the probe, and a second one pinned to read what lies between; both are in the column's unit."""

    def __init__(self, hub: Hub, stack: LaneStack) -> None:
        self.hub, self.stack, self.bar = hub, stack, ProbeBar()
        stack.probe_moved.connect(self.move)
        self.bar.moved.connect(self.move)
        self.bar.pinned.connect(self.pin)

    @property
    def value(self) -> float | None:
        """Where the column in focus is read: where the analyst put the probe, or else at its median."""
        preview = self.hub.preview
        chosen = self.hub.study.document.view.probes.get(self.hub.focus or "")
        return preview.description.median if chosen is None and preview is not None else chosen

    @property
    def pinned(self) -> float | None:
        """Where the second probe is pinned in the column in focus, None where there is none."""
        return self.hub.study.document.view.pinned_probes.get(self.hub.focus or "")

    def move(self, value: float | None) -> None:
        """Move the probe to ``value``; None leaves it to the median."""
        self._record("probes", value)
        self.show()

    def pin(self, value: float | None) -> None:
        """Pin the second probe at ``value``, or take it away."""
        self._record("pinned_probes", value)
        self.show()

    def _record(self, choice: str, value: float | None) -> None:
        """Let ``value`` be the one chosen for the column in focus."""
        study, focus = self.hub.study, self.hub.focus
        others = {name: each for name, each in getattr(study.document.view, choice).items() if name != focus}
        chosen = {} if value is None or focus is None else {focus: value}
        study.change_view(**{choice: others | chosen})

    def show(self) -> None:
        """Show both probes where they stand."""
        value, pinned = self.value, self.pinned
        self.stack.set_probe(value)
        self.stack.set_pinned(pinned)
        self.bar.show_reading(self.hub.preview, value, pinned)

    def step(self, by: int) -> None:
        """Move the probe to the next (or previous) distinct value."""
        preview, value = self.hub.preview, self.value
        if preview is None or value is None or not preview.sample.n:
            return
        values = np.asarray(preview.sample.runs[0], dtype=np.float64)
        side = int(np.searchsorted(values, value, side="right" if by > 0 else "left"))
        position = side if by > 0 else side - 1
        if 0 <= position < values.size:
            self.move(float(values[position]))
