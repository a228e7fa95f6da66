"""The labels of a part that are to be shown: which words stand at which note, and which at which moment."""

from collections.abc import Mapping
from dataclasses import dataclass

from ear.labels.chord_cards import chord_names
from ear.labels.counting import counts, move_numbers
from ear.labels.kinds import LabelKind
from ear.labels.typing_keys import key_of_pitch, plain_letter
from ear.notes import Note, Ornament, Part
from ear.reader import Reader

ON_THE_PAGE = (LabelKind.FINGERS, LabelKind.WORDS, LabelKind.CHORDS)
"""What a part shows where nobody said otherwise."""


ORNAMENT_SIGNS = {
    Ornament.FLAM: "flam", Ornament.DRAG: "drag", Ornament.ROLL: "roll", Ornament.TRILL: "tr",
    Ornament.MORDENT: "mordent", Ornament.UPPER_MORDENT: "upper mordent", Ornament.TURN: "turn", Ornament.GRACE: "grace note",
}  # fmt: skip
"""In words, for the page: the notation draws them."""
DRAWN = frozenset({Ornament.FLAM, Ornament.DRAG})
WITHOUT_WORDS = DRAWN | {Ornament.GRACE}
"""What the page draws, too: small strokes before their own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """A word for a learner, of one kind, so that each kind can be switched."""

    kind: LabelKind
    text: str
    code: str = ""
    """Of a key to type, its place: the page puts the machine's own letter there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Labels:
    """All labels of a part that are to be shown."""

    kinds: frozenset[LabelKind]
    names: Mapping[tuple[int, int], str]
    """By pitch and key signature."""
    codes: Mapping[int, str]
    lines: tuple[tuple[LabelKind, Mapping[int, str]], ...]
    """Labels of moments under the staves, by tick, a line for each kind."""
    chords: Mapping[int, str]
    part: Part

    @classmethod
    def of(cls, part: Part, kinds: frozenset[LabelKind], reader: Reader) -> "Labels":
        """Return the labels of the chosen kinds for the whole part."""
        names: dict[tuple[int, int], str] = {}
        conventions = reader.conventions
        if LabelKind.NAMES in kinds:
            for note, name_fifth in zip(part.notes, part.names, strict=True):
                if (note.pitch, name_fifth) not in names:
                    has_lanes = part.instrument.has_lanes
                    names[note.pitch, name_fifth] = (
                        reader.sound(part, note.pitch)
                        if has_lanes
                        else conventions.letter(note.pitch, name_fifth=name_fifth)
                    )
        lines: list[tuple[LabelKind, Mapping[int, str]]] = []
        if LabelKind.COUNT in kinds:
            lines.append((LabelKind.COUNT, counts(part)))
        if LabelKind.MOVES in kinds:
            lines.append((LabelKind.MOVES, {tick: str(n) for tick, n in move_numbers(part).items()}))
        return cls(
            kinds=kinds,
            names=names,
            codes=key_of_pitch(part, left_handed=conventions.left_handed) if LabelKind.KEYS in kinds else {},
            lines=tuple(lines),
            chords=chord_names(part) if LabelKind.CHORDS in kinds and part.instrument.has_key else {},
            part=part,
        )

    @property
    def has_chords(self) -> bool:
        """Are there chord names?"""
        return bool(self.chords)

    def at_note(self, note: Note) -> tuple[Label, ...]:
        """Return the labels at a note, in order."""
        labels: list[Label] = []
        if note.ornament is not None and note.ornament not in WITHOUT_WORDS:
            labels.append(Label(kind=LabelKind.ORNAMENTS, text=ORNAMENT_SIGNS[note.ornament]))
        if note.finger is not None and LabelKind.FINGERS in self.kinds:
            text = f"({note.finger})" if note.is_proposed else str(note.finger)
            labels.append(Label(kind=LabelKind.FINGERS, text=text))
        if self.names:
            name_fifth = self.part.name_of(note.pitch, note.onset_tick)
            labels.append(Label(kind=LabelKind.NAMES, text=self.names[note.pitch, name_fifth]))
        code = self.codes.get(note.pitch)
        if code is not None:
            labels.append(Label(kind=LabelKind.KEYS, text=plain_letter(code), code=code))
        if note.label is not None and LabelKind.WORDS in self.kinds:
            labels.append(Label(kind=LabelKind.WORDS, text=note.label))
        return tuple(labels)
