"""A density drawn with fewer points looks as it does with all."""

import numpy as np
import pytest

from culvix.stats.core.sample import Sample
from culvix.stats.shape.density import density
from culvix.stats.shape.density_outline import density_outline


@pytest.mark.parametrize("shape", ["two humps", "long tail"])
def test_the_outline_keeps_to_the_curve_and_its_peaks_with_few_points(shape: str) -> None:
    draw = np.random.default_rng(7)
    values = np.concatenate((draw.normal(0, 1, 3000), draw.normal(9, 1, 2000)))
    sample = Sample.of(values if shape == "two humps" else np.exp(values / 4))
    curve = density(sample)
    assert curve is not None
    outline = density_outline(curve, sample)
    inside = (curve.x >= outline.x[0]) & (curve.x <= outline.x[-1])
    between = np.interp(curve.x[inside], outline.x, outline.y)
    # Half a pixel of a lane that is a hundred pixels high.
    assert np.abs(between - curve.y[inside]).max() < 5e-3 * curve.y.max()
    assert set(curve.peaks) <= set(outline.x)
    assert outline.x.size < 0.4 * curve.x.size
