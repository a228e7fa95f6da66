"""Notes: which notes were played, and which were not."""

from ear.criterion import CriterionKey

NOTES = CriterionKey("notes")
