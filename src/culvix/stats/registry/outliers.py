"""The one-column outlier methods, in the order in which they are shown."""

from culvix.stats.outliers.adjusted_fences import adjusted_fences
from culvix.stats.outliers.dixon import dixon
from culvix.stats.outliers.double_mad import double_mad
from culvix.stats.outliers.fdr import fdr
from culvix.stats.outliers.generalized_esd import generalized_esd
from culvix.stats.outliers.grubbs import grubbs
from culvix.stats.outliers.hampel import hampel
from culvix.stats.outliers.iqr_fences import iqr_fences
from culvix.stats.outliers.modified_z import modified_z
from culvix.stats.outliers.qn_distance import qn_distance
from culvix.stats.outliers.valid_range import valid_range
from culvix.stats.outliers.z_score import z_score
from culvix.stats.registry.rows import OutlierMethod, Setting, table

__all__ = ["OUTLIER_METHODS"]

OUTLIER_METHODS = table(
    OutlierMethod(
        key="z_score",
        name="z-score",
        short="z-score",
        tells="Distance from the mean in SDs. Both move with the outliers, so several hide each other.",
        source="Shiffler 1988 for its bound (n−1)/√n",
        run=z_score,
        anchor="mean",
        limit=Setting("k", "SDs from the mean", 3.0, (2.0, 2.5, 3.0), "distance"),
    ),
    OutlierMethod(
        key="iqr_fences",
        name="IQR fences",
        short="fences",
        tells="Distance beyond the quartiles in IQRs. Of a long normal column 0.7 % lies outside the inner fences, "
        "of 20 values 2 %, of 8 values 4 %.",
        source="Tukey 1977",
        run=iqr_fences,
        anchor="quartiles",
        limit=Setting("c", "IQRs beyond the quartiles", 1.5, (1.5, 3.0), "distance"),
        follows_quantiles=True,
    ),
    OutlierMethod(
        key="modified_z",
        name="modified z-score",
        short="robust z",
        tells="Distance from the median in scaled MADs: half of the values may be wrong and not move the limits.",
        source="Iglewicz & Hoaglin 1993",
        run=modified_z,
        anchor="median",
        limit=Setting("limit", "scaled MADs from the median", 3.5, (3.0, 3.5), "distance"),
    ),
    OutlierMethod(
        key="hampel",
        name="Hampel",
        short="Hampel",
        tells="Distance from the median in scaled MADs, which stand in for the SD.",
        source="Hampel 1974",
        run=hampel,
        anchor="median",
        limit=Setting("k", "scaled MADs from the median", 3.0, (2.5, 3.0), "distance"),
    ),
    OutlierMethod(
        key="double_mad",
        name="two-sided MAD",
        short="split MAD",
        tells="Distance from the median with a MAD of its own for each side: for skewed columns.",
        source="after Hampel 1974",
        run=double_mad,
        anchor="median",
        limit=Setting("k", "scaled MADs of the own side", 3.0, (2.5, 3.0, 3.5), "distance"),
    ),
    OutlierMethod(
        key="adjusted_fences",
        name="adjusted fences",
        short="adj. fences",
        tells="Tukey's fences stretched on the long side by the medcouple: for skewed columns.",
        source="Hubert & Vandervieren 2008",
        run=adjusted_fences,
        anchor="quartiles",
        limit=Setting("c", "IQRs beyond the quartiles, before adjustment", 1.5, (1.5, 3.0), "distance"),
        follows_quantiles=True,
        deferred=True,
    ),
    OutlierMethod(
        key="qn_distance",
        name="Qn distance",
        short="Qn",
        tells="Distance from the median in Qn, a spread that needs no centre.",
        source="Rousseeuw & Croux 1993",
        run=qn_distance,
        anchor="median",
        limit=Setting("k", "Qn from the median", 3.0, (2.5, 3.0), "distance"),
        deferred=True,
    ),
    OutlierMethod(
        key="grubbs",
        name="Grubbs",
        short="Grubbs",
        tells="Whether the one farthest value is too far for a normal sample of this n.",
        source="Grubbs 1969",
        run=grubbs,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05), "level"),
        single=True,
    ),
    OutlierMethod(
        key="generalized_esd",
        name="generalised ESD",
        short="ESD",
        tells="How many of the farthest values, up to ten, are too far for a normal sample.",
        source="Rosner 1983",
        run=generalized_esd,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05), "level"),
    ),
    OutlierMethod(
        key="dixon",
        name="Dixon",
        short="Dixon",
        tells="Whether the gap at one end is too wide for a normal sample of 3 to 30 values.",
        source="Dixon 1951",
        run=dixon,
        limit=Setting("alpha", "level of the test", 0.05, (0.01, 0.05, 0.1), "level"),
        single=True,
    ),
    OutlierMethod(
        key="fdr",
        name="FDR test",
        short="FDR",
        tells="Values too far for a normal core, with the share of wrong flags held at the rate Q.",
        source="Benjamini & Hochberg 1995",
        run=fdr,
        limit=Setting("q", "false discovery rate", 0.01, (0.001, 0.01, 0.05), "level"),
    ),
    OutlierMethod(
        key="valid_range",
        name="valid range",
        short="valid range",
        tells="What lies outside the bounds declared for the column: an error, not an opinion.",
        source="the column's declared range",
        run=valid_range,
        limit=None,
        follows_range=True,
    ),
)
