"""Documents for other programs: the profile, the intake, the cleaned table."""
