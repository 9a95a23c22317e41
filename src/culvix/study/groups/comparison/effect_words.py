"""Sizes of differences in words."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from culvix.stats.display import NumberStyle, number, signed
from culvix.stats.groups.result import Effect

__all__ = ["EFFECTS", "EffectWords", "effect_words"]


@dataclass(frozen=True)
class EffectWords:
    """What an effect is called, and what it ``tells``; ``in_unit`` where it is in the unit of the column.

    A ``share`` has no sign.
    """

    name: str
    tells: str
    in_unit: bool = False
    share: bool = False


EFFECTS: Mapping[str, EffectWords] = MappingProxyType(
    {
        "mean_difference": EffectWords("difference of means", "The first mean less the second.", in_unit=True),
        "mean_of_differences": EffectWords("mean of the differences", "Of all pairs, first less second.", in_unit=True),
        "hodges_lehmann_shift": EffectWords(
            "shift (Hodges–Lehmann)",
            "The median of all differences between a value of the first group and one of the second.",
            in_unit=True,
        ),
        "paired_shift": EffectWords(
            "centre of the differences", "The median of the means of any two differences of pairs.", in_unit=True
        ),
        "hedges_g": EffectWords("Hedges g", "The difference of means in standard deviations; 0.2 small, 0.8 large."),
        "cliff_delta": EffectWords(
            "Cliff δ", "How much more often a value of the first group is above one of the second than below it."
        ),
        "eta_squared": EffectWords("η²", "The share of the variation that lies between the groups.", share=True),
        "omega_squared": EffectWords("ω²", "η² without what chance alone puts between groups.", share=True),
        "epsilon_squared": EffectWords(
            "ε² of ranks", "The share of the variation of the ranks that lies between the groups.", share=True
        ),
    }
)


def effect_words(effect: Effect, style: NumberStyle) -> tuple[str, str]:
    """The ``effect`` and its interval, in the ``style`` of the column where it is in its unit."""
    kind = EFFECTS[effect.key]

    def shown(value: float) -> str:
        if kind.in_unit:
            return signed(value, style.statistic_decimals)
        return number(value, 3) if kind.share else signed(value, 3)

    if effect.value is None:
        return "—", effect.note or ""
    ends = "" if effect.low is None or effect.high is None else f"{shown(effect.low)} to {shown(effect.high)}"
    return shown(effect.value), ends or (effect.note or "")
