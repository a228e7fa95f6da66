"""What can be written at the notes for a learner: fingers, names, keys to type, counts, chords."""

from ear.labels.conventions import PLAIN, Conventions, Values
from ear.labels.kinds import LabelKind

__all__ = ["PLAIN", "Conventions", "LabelKind", "Values"]
