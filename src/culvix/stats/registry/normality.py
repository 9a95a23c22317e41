"""The tests of normality, in the order in which they are shown."""

from culvix.stats.normality.anderson_darling import anderson_darling
from culvix.stats.normality.cramer_von_mises import cramer_von_mises
from culvix.stats.normality.dagostino_k2 import dagostino_k2
from culvix.stats.normality.jarque_bera import jarque_bera
from culvix.stats.normality.lilliefors import lilliefors
from culvix.stats.normality.shapiro_francia import shapiro_francia
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.registry.rows import NormalityTest, table

__all__ = ["NORMALITY_TESTS", "suggested_test"]

NORMALITY_TESTS = table(
    NormalityTest(
        key="shapiro_wilk",
        name="Shapiro–Wilk",
        short="Shapiro–Wilk",
        tells="How straight the Q-Q points are: W is near 1 for a normal sample and falls with any departure.",
        source="Royston 1995, algorithm AS R94",
        run=shapiro_wilk,
        tail="low",
        smallest_n=3,
        largest_n=5000,
    ),
    NormalityTest(
        key="shapiro_francia",
        name="Shapiro–Francia",
        short="Shapiro–Francia",
        tells="How straight the Q-Q points are, by their plain correlation; good for long tails.",
        source="Shapiro & Francia 1972; Royston 1993",
        run=shapiro_francia,
        tail="low",
        smallest_n=5,
        largest_n=5000,
    ),
    NormalityTest(
        key="anderson_darling",
        name="Anderson–Darling",
        short="Anderson–Darling",
        tells="The gap between data and normal, weighed towards both tails.",
        source="Stephens 1986",
        run=anderson_darling,
        tail="high",
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="lilliefors",
        name="Lilliefors",
        short="Lilliefors",
        tells="The largest gap between data and normal, mean and SD being estimated.",
        source="Lilliefors 1967; Dallal & Wilkinson 1986",
        run=lilliefors,
        tail="high",
        smallest_n=5,
        largest_n=None,
    ),
    NormalityTest(
        key="cramer_von_mises",
        name="Cramér–von Mises",
        short="Cramér–von Mises",
        tells="The mean squared gap between data and normal.",
        source="Stephens 1986",
        run=cramer_von_mises,
        tail="high",
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="dagostino_k2",
        name="D'Agostino–Pearson",
        short="D'Agostino–Pearson",
        tells="Whether skewness and kurtosis together could be those of a normal sample.",
        source="D'Agostino, Belanger & D'Agostino 1990",
        run=dagostino_k2,
        tail="high",
        smallest_n=8,
        largest_n=None,
    ),
    NormalityTest(
        key="jarque_bera",
        name="Jarque–Bera (adj.)",
        short="Jarque–Bera",
        tells="Skewness and kurtosis again, for large samples.",
        source="Jarque & Bera 1980; Urzúa 1996",
        run=jarque_bera,
        tail="high",
        smallest_n=8,
        largest_n=None,
    ),
)


def suggested_test(n: int) -> NormalityTest:
    """The test of normality to read first: Shapiro–Wilk where it is valid, beyond it Anderson–Darling.

    Parameters
    ----------
    n
        How many values there are.

    Returns
    -------
    NormalityTest
        The test, as in `NORMALITY_TESTS`.

    References
    ----------
    Royston, P. 1995: Remark AS R94: A remark on algorithm AS 181: the W-test for normality. Applied Statistics 44,
    547-551.
    """
    first = NORMALITY_TESTS["shapiro_wilk"]
    if first.largest_n is None or n <= first.largest_n:
        return first
    return NORMALITY_TESTS["anderson_darling"]
