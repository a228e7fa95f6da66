"""What is measured of a take, criterion by criterion."""

from enum import StrEnum


class CriterionName(StrEnum):
    """What a mark is made of, measured. Its order is that of mark sheets."""

    NOTES = "notes"
    TIMING = "timing"
    FLOW = "flow"
    DYNAMICS = "dynamics"
    LENGTH = "length"
    PEDAL = "pedal"
