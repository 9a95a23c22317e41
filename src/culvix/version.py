"""The version, standing alone so that it can be read without importing anything else."""

VERSION = "0.1.0"
