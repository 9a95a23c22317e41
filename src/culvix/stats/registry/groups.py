"""The tests that compare groups, in the order in which they are shown."""

from culvix.stats.groups.kolmogorov_smirnov import kolmogorov_smirnov
from culvix.stats.groups.mann_whitney import mann_whitney
from culvix.stats.groups.several_means import one_way, welch_one_way
from culvix.stats.groups.several_ranks import kruskal_wallis
from culvix.stats.groups.signed_rank import signed_rank
from culvix.stats.groups.spreads import brown_forsythe, fligner_killeen
from culvix.stats.groups.two_means import paired_t, student_t, welch_t
from culvix.stats.registry.rows import GroupTestKind, table

__all__ = ["GROUP_TESTS"]

GROUP_TESTS = table(
    GroupTestKind(
        key="welch_t",
        name="Welch's t",
        short="Welch",
        tells="Whether two means differ, however wide either group is.",
        source="Welch 1947",
        compares="means",
        most=2,
        statistic="t",
        run=lambda groups: welch_t(*groups),
    ),
    GroupTestKind(
        key="student_t",
        name="Student's t",
        short="Student",
        tells="Whether two means differ, of groups as wide as each other.",
        source="Student 1908",
        compares="means",
        most=2,
        statistic="t",
        run=lambda groups: student_t(*groups),
    ),
    GroupTestKind(
        key="mann_whitney",
        name="Mann–Whitney",
        short="Mann–Whitney",
        tells="Whether values of one group are more often above those of the other than below.",
        source="Mann & Whitney 1947",
        compares="ranks",
        most=2,
        statistic="U",
        run=lambda groups: mann_whitney(*groups),
    ),
    GroupTestKind(
        key="kolmogorov_smirnov",
        name="Kolmogorov–Smirnov of two samples",
        short="K–S",
        tells="Whether two groups are distributed alike, in whatever way they may differ.",
        source="Smirnov 1939; Hodges 1958",
        compares="shapes",
        most=2,
        statistic="D",
        run=lambda groups: kolmogorov_smirnov(*groups),
    ),
    GroupTestKind(
        key="welch_one_way",
        name="Welch's analysis of variance",
        short="Welch ANOVA",
        tells="Whether any of several means differ, however wide each group is.",
        source="Welch 1951",
        compares="means",
        statistic="F",
        run=welch_one_way,
    ),
    GroupTestKind(
        key="one_way",
        name="One-way analysis of variance",
        short="ANOVA",
        tells="Whether any of several means differ, of groups as wide as each other.",
        source="Fisher 1925",
        compares="means",
        statistic="F",
        run=one_way,
    ),
    GroupTestKind(
        key="kruskal_wallis",
        name="Kruskal–Wallis",
        short="Kruskal–Wallis",
        tells="Whether any of several groups lie higher than the others, by the ranks of their values.",
        source="Kruskal & Wallis 1952",
        compares="ranks",
        statistic="H",
        run=kruskal_wallis,
    ),
    GroupTestKind(
        key="brown_forsythe",
        name="Brown–Forsythe",
        short="Brown–Forsythe",
        tells="Whether groups are equally wide, by the distances from their medians.",
        source="Brown & Forsythe 1974",
        compares="spreads",
        statistic="F",
        run=brown_forsythe,
    ),
    GroupTestKind(
        key="fligner_killeen",
        name="Fligner–Killeen",
        short="Fligner–Killeen",
        tells="Whether groups are equally wide, by the ranks of the distances from their medians.",
        source="Fligner & Killeen 1976; Conover, Johnson & Johnson 1981",
        compares="spreads",
        statistic="χ²",
        run=fligner_killeen,
    ),
    GroupTestKind(
        key="paired_t",
        name="Paired t",
        short="paired t",
        tells="Whether the mean of the differences of pairs is 0.",
        source="Student 1908",
        compares="means",
        most=2,
        paired=True,
        statistic="t",
        run=lambda columns: paired_t(*columns),
    ),
    GroupTestKind(
        key="signed_rank",
        name="Wilcoxon's signed ranks",
        short="signed ranks",
        tells="Whether the differences of pairs lie as far above 0 as below it.",
        source="Wilcoxon 1945",
        compares="ranks",
        most=2,
        paired=True,
        statistic="T⁺",
        run=lambda columns: signed_rank(*columns),
    ),
)
