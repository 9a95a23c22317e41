"""The Intake stage."""
