"""The example study: a made-up trout hatchery's spring cohort, with troubles planted on purpose and a key to them."""

from culvix.demo.cohort import Cohort, Trouble, last_cohort, spring_cohort, write_demo

__all__ = ["Cohort", "Trouble", "last_cohort", "spring_cohort", "write_demo"]
