"""The study written up: sections into self-contained HTML."""
