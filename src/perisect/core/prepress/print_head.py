"""A print head as its check takes it: each ink by groups of nozzles, from the top of a swath to its foot."""

INKS = ("cyan", "magenta", "yellow", "black")
GROUPS = 48
"""Of nozzles, for each ink."""
SWATH_MM = 24.0
"""What a head prints at one go."""
