"""Tests of normality, one module each, and the verdict drawn from them."""
