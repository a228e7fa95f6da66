"""Timing: when notes were played, against the click and against the player's own pulse."""

from ear.criterion import CriterionKey

TIMING = CriterionKey("timing")
