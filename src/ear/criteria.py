"""What is measured of a take, criterion by criterion."""

from enum import StrEnum


class CriterionName(StrEnum):
    NOTES = "notes"
    TIMING = "timing"
    FLOW = "flow"
    DYNAMICS = "dynamics"
    LENGTH = "length"
    PEDAL = "pedal"
