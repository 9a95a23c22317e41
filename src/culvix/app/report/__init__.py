"""The Report stage: the pages as they are printed, beside their outline."""
