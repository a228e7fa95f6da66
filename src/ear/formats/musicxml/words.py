"""What both ways share: names of values, heads and alterations in MusicXML."""

from ear.notes import Ornament

DYNAMICS_OF_FORTE = 90
"""The velocity that the attribute `dynamics` calls 100 per cent."""
ORNAMENTS = {
    Ornament.TRILL: "trill-mark", Ornament.MORDENT: "mordent", Ornament.UPPER_MORDENT: "inverted-mordent",
    Ornament.TURN: "turn", Ornament.ROLL: "tremolo",
}  # fmt: skip
ROLL_MARKS = 3
ACCENTS = {"accent": 16, "strong-accent": 26}
"""Velocity steps by which a note with such a mark is stronger than the signs say."""
GHOST_STEPS = 40
TYPES = {1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd", 64: "64th"}
ACCIDENTALS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}
HEADS = {"cross": "x", "ring": "circle-x", "diamond": "diamond"}
JUMPS = {
    "tocoda": ("To Coda", "coda"), "fine": ("Fine", "yes"), "dacapo": ("D.C.", "yes"), "dalsegno": ("D.S.", "segno"),
}  # fmt: skip
"""Words over the end of a bar that say where to go on, each with what the format's `sound` has for it."""
CLEFS = {"treble": ("G", "2"), "bass": ("F", "4"), "percussion": ("percussion", None)}
STEPS = "CDEFGAB"
KINDS = {
    "": "major", "m": "minor", "dim": "diminished", "aug": "augmented", "5": "power", "sus2": "suspended-second",
    "sus4": "suspended-fourth", "6": "major-sixth", "m6": "minor-sixth", "7": "dominant", "maj7": "major-seventh",
    "m7": "minor-seventh", "mmaj7": "major-minor", "dim7": "diminished-seventh", "m7b5": "half-diminished",
    "aug7": "augmented-seventh", "9": "dominant-ninth", "maj9": "major-ninth", "m9": "minor-ninth",
}  # fmt: skip
"""Chord qualities that MusicXML has a name for; others are written as “other” with their text."""
STAFF_BOTTOM_STEP = 30
"""E4, the bottom line of a percussion staff as MusicXML shows it, in steps from C of octave 0."""
