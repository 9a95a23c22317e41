"""The kinds of correlation, in the order in which they are shown."""

from culvix.stats.correlation.intervals import fisher_interval
from culvix.stats.correlation.kendall import kendall, kendall_interval, kendall_matrix
from culvix.stats.correlation.pearson import pearson, pearson_matrix
from culvix.stats.correlation.robust import biweight, biweight_matrix, winsorized, winsorized_matrix
from culvix.stats.correlation.spearman import spearman, spearman_interval
from culvix.stats.correlation.spearman_matrix import spearman_approximation, spearman_matrix
from culvix.stats.registry.rows import CorrelationKind, table

__all__ = ["CORRELATION_KINDS"]

CORRELATION_KINDS = table(
    CorrelationKind(
        key="pearson",
        name="Pearson",
        short="Pearson",
        tells="Strength of a straight-line relation; one far point can make or break it.",
        source="Pearson 1896; t test, Student 1908",
        run=pearson,
        matrix=pearson_matrix,
        interval=fisher_interval,
        ranks=True,
    ),
    CorrelationKind(
        key="spearman",
        name="Spearman",
        short="Spearman",
        tells="Strength of a steadily rising or falling relation, straight or not, from ranks.",
        source="Spearman 1904",
        run=spearman,
        matrix=spearman_matrix,
        watched=True,
        interval=spearman_interval,
        approximation=spearman_approximation,
        symbol="ρ",
        ranks=True,
    ),
    CorrelationKind(
        key="kendall",
        name="Kendall",
        short="Kendall",
        tells="How much more often two rows agree in order than disagree, ties taken into account.",
        source="Kendall 1938; Knight 1966",
        run=kendall,
        matrix=kendall_matrix,
        interval=kendall_interval,
        watched=True,
        symbol="τ-b",
        slow=True,
    ),
    CorrelationKind(
        key="biweight",
        name="Biweight",
        short="biweight",
        tells="A straight-line relation seen through weights that leave far values out.",
        source="Wilcox 2012",
        run=biweight,
        matrix=biweight_matrix,
        watched=True,
        documented=False,
    ),
    CorrelationKind(
        key="winsorized",
        name="Winsorised",
        short="winsorised",
        tells="A straight-line relation after a fifth of each column's values is pulled in at either end.",
        source="Wilcox 2012",
        run=winsorized,
        matrix=winsorized_matrix,
        watched=True,
        documented=False,
    ),
)
