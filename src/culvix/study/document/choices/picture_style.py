"""How pictures for paper look: letters, lines, shades, grid and ground, the same for all pictures of a study."""

from dataclasses import dataclass
from math import isfinite

from culvix.errors import StatisticsError

__all__ = ["PICTURE_PALETTES", "USUAL_STYLE", "PictureStyle"]

PICTURE_PALETTES: dict[str, str] = {
    "usual": "the usual one",
    "safe": "safe for colour-blind readers",
    "greys": "greys",
}
"""The shades that pictures for paper can have."""

_POINTS, _LINES = (5.0, 24.0), (0.25, 6.0)
_LONGEST = 200


@dataclass(frozen=True)
class PictureStyle:
    """``font`` is a family, empty for the usual one; ``points`` the size of the names of axes, ``lines`` how many times
    as wide as usual lines are. ``transparent`` pictures have no ground; ``probe``: the probe stands in them, too.

    Raises StatisticsError for what no picture can be.
    """

    font: str = ""
    points: float = 9.0
    lines: float = 1.0
    palette: str = "usual"
    grid: bool = False
    transparent: bool = False
    probe: bool = False

    def __str__(self) -> str:
        parts = [self.font or "usual letters", f"{self.points:g} pt", PICTURE_PALETTES[self.palette]]
        parts += [f"lines × {self.lines:g}"] if self.lines != 1 else []
        options = (("grid", self.grid), ("no ground", self.transparent), ("the probe", self.probe))
        return ", ".join([*parts, *(name for name, on in options if on)])

    def __post_init__(self) -> None:
        for name, value, (least, most) in (("size of letters", self.points, _POINTS), ("width", self.lines, _LINES)):
            if not (isfinite(value) and least <= value <= most):
                raise StatisticsError(f"The {name} lies between {least:g} and {most:g}, not at {value:g}.")
        if self.palette not in PICTURE_PALETTES:
            raise StatisticsError(f"There are no shades {self.palette!r} for pictures.")
        if len(self.font) > _LONGEST:
            raise StatisticsError("The name of a font has at most 200 letters.")


USUAL_STYLE = PictureStyle()
"""The style of pictures of which nothing is said."""
