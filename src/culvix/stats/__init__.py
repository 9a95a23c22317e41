"""Statistics: arrays in, frozen results out. NumPy and scipy.special only, no interface.

Start with a `Sample`. `NORMALITY_TESTS`, `OUTLIER_METHODS` and `CORRELATION_KINDS` are the tables of all tests, outlier
rules and correlations; every function here is told in full by its own documentation. A function of the name of its
module is reached here under that name; the module stays to be imported from.
"""

from culvix.stats.association.agreement import Concordance, LimitsOfAgreement, concordance, limits_of_agreement
from culvix.stats.association.correlation_ratio import epsilon_squared, eta_squared
from culvix.stats.association.cramers_v import contingency, cramers_v
from culvix.stats.association.result import Association
from culvix.stats.core.moments import Moments, moments
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.quantiles import PERCENTILES, QUANTILE_TYPES, PercentileOfValue, hinges, percentile_of, quantile
from culvix.stats.core.recorded_steps import recorded_step
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.by_group import GroupedCorrelation, correlation_by_group
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.correlation.intervals import fisher_interval
from culvix.stats.correlation.kendall import kendall, kendall_interval, kendall_matrix
from culvix.stats.correlation.pair_sums import PairSums, pair_sums
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.pearson import pearson, pearson_matrix
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation
from culvix.stats.correlation.robust import biweight, biweight_matrix, winsorized, winsorized_matrix
from culvix.stats.correlation.spearman import spearman, spearman_interval
from culvix.stats.correlation.spearman_matrix import spearman_approximation, spearman_matrix
from culvix.stats.describe.conventions import OTHER_CONVENTIONS, other_conventions
from culvix.stats.describe.deferred import DeferredFigures, deferred_figures
from culvix.stats.describe.description import Description, describe
from culvix.stats.describe.hodges_lehmann import hodges_lehmann, hodges_lehmann_interval
from culvix.stats.describe.influence import LeftOut, left_out, pearson_left_out, pearson_without
from culvix.stats.describe.intervals import (
    bonett_interval,
    mean_interval,
    median_interval,
    quantile_interval,
    sd_interval,
)
from culvix.stats.describe.l_moments import LMoments, l_moments
from culvix.stats.describe.medcouple import medcouple
from culvix.stats.describe.probe import ProbeReading, read_probe
from culvix.stats.describe.robust_scale import qn, sn
from culvix.stats.multivariate.row_distances import RowDistances, row_distances
from culvix.stats.normality.anderson_darling import anderson_darling
from culvix.stats.normality.cramer_von_mises import cramer_von_mises
from culvix.stats.normality.dagostino_k2 import dagostino_k2
from culvix.stats.normality.jarque_bera import jarque_bera
from culvix.stats.normality.lilliefors import lilliefors
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.normality.result import NormalityResult
from culvix.stats.normality.shapiro_francia import shapiro_francia
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.normality.verdict import Verdict, judge_normality
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
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.outliers.scoped import GroupedResult, on_scale, within_groups
from culvix.stats.outliers.suggestion import MethodSuggestion, suggested_method
from culvix.stats.outliers.valid_range import valid_range
from culvix.stats.outliers.z_score import z_score
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.stats.registry.normality import suggested_test
from culvix.stats.regression.line_influence import LineInfluence, line_influence
from culvix.stats.regression.lowess import SmoothCurve, lowess
from culvix.stats.regression.straight_line import LineErrors, StraightLine, line_band, line_errors, straight_line
from culvix.stats.resampling.bootstrap_interval import BootstrapInterval
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED, bootstrap_interval
from culvix.stats.resampling.multiple_testing import benjamini_hochberg, holm
from culvix.stats.resampling.pair_bootstrap import BOOTSTRAPPED_COEFFICIENTS, bootstrap_correlation
from culvix.stats.resampling.simulation import SimulatedP, permutation_p
from culvix.stats.shape.density import BANDWIDTH_RULES, Density, density
from culvix.stats.shape.dip import DipResult, dip, dip_test
from culvix.stats.shape.histogram import BIN_RULES, Histogram, histogram
from culvix.stats.shape.line_up import FORMS, LineUp, line_up
from culvix.stats.shape.power_transform import BoxCox, box_cox, fit_box_cox, fit_yeo_johnson, yeo_johnson
from culvix.stats.shape.qq import QQ, qq, straightness
from culvix.stats.shape.transform import TRANSFORMS, Judgement, judge, transform

__all__ = [
    "BANDWIDTH_RULES",
    "BIN_RULES",
    "BOOTSTRAPPED",
    "BOOTSTRAPPED_COEFFICIENTS",
    "CORRELATION_KINDS",
    "FORMS",
    "NORMALITY_TESTS",
    "OTHER_CONVENTIONS",
    "OUTLIER_METHODS",
    "PERCENTILES",
    "QQ",
    "QUANTILE_TYPES",
    "TRANSFORMS",
    "Association",
    "BootstrapInterval",
    "BoxCox",
    "Concordance",
    "CorrelationMatrix",
    "DeferredFigures",
    "Density",
    "Description",
    "DipResult",
    "GroupedCorrelation",
    "GroupedResult",
    "Histogram",
    "Judgement",
    "LMoments",
    "LeftOut",
    "LimitsOfAgreement",
    "LineErrors",
    "LineInfluence",
    "LineUp",
    "MethodSuggestion",
    "Moments",
    "NormalityResult",
    "OutlierResult",
    "PairCorrelation",
    "PairSums",
    "PercentileOfValue",
    "ProbeReading",
    "RowDistances",
    "Sample",
    "SimulatedP",
    "SmoothCurve",
    "StraightLine",
    "Verdict",
    "adjusted_fences",
    "anderson_darling",
    "benjamini_hochberg",
    "biweight",
    "biweight_matrix",
    "bonett_interval",
    "bootstrap_correlation",
    "bootstrap_interval",
    "box_cox",
    "concordance",
    "contingency",
    "correlation_by_group",
    "cramer_von_mises",
    "cramers_v",
    "dagostino_k2",
    "deferred_figures",
    "density",
    "describe",
    "dip",
    "dip_test",
    "distance_correlation",
    "dixon",
    "double_mad",
    "epsilon_squared",
    "eta_squared",
    "fdr",
    "fisher_interval",
    "fit_box_cox",
    "fit_yeo_johnson",
    "generalized_esd",
    "grubbs",
    "hampel",
    "hinges",
    "histogram",
    "hodges_lehmann",
    "hodges_lehmann_interval",
    "holm",
    "iqr_fences",
    "jarque_bera",
    "judge",
    "judge_normality",
    "kendall",
    "kendall_interval",
    "kendall_matrix",
    "l_moments",
    "left_out",
    "lilliefors",
    "limits_of_agreement",
    "line_band",
    "line_errors",
    "line_influence",
    "line_up",
    "lowess",
    "mean_interval",
    "medcouple",
    "median_interval",
    "modified_z",
    "moments",
    "monte_carlo_normality",
    "normal_scores",
    "on_scale",
    "other_conventions",
    "pair_sums",
    "partial_correlation",
    "pearson",
    "pearson_left_out",
    "pearson_matrix",
    "pearson_without",
    "percentile_of",
    "permutation_p",
    "qn",
    "qn_distance",
    "qq",
    "quantile",
    "quantile_interval",
    "read_probe",
    "recorded_step",
    "row_distances",
    "sd_interval",
    "shapiro_francia",
    "shapiro_wilk",
    "sn",
    "spearman",
    "spearman_approximation",
    "spearman_interval",
    "spearman_matrix",
    "straight_line",
    "straightness",
    "suggested_method",
    "suggested_test",
    "transform",
    "valid_range",
    "winsorized",
    "winsorized_matrix",
    "within_groups",
    "yeo_johnson",
    "z_score",
]
