"""What can be written at the notes for a learner: fingers, names, keys to type, counts, chords."""

from ear.labels.kinds import LabelKind

__all__ = ["LabelKind"]
