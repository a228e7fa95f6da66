"""Dynamics: how loudly notes were played, against how loudly they are written."""

from ear.criterion import CriterionKey

DYNAMICS = CriterionKey("dynamics")
