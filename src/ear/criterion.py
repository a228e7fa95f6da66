"""The key of a criterion, as it is stored; each criterion has its own in its module of `ear.criteria`."""

from typing import NewType

CriterionKey = NewType("CriterionKey", str)
