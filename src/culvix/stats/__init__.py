"""Statistics: arrays in, frozen results out. NumPy and scipy.special only, no interface.

Start with `sample.Sample`; `methods` is the table of all tests, outlier rules and correlations.
"""
