"""Labels on the page: which words stand at which note, and which at which moment."""

from collections.abc import Mapping
from dataclasses import dataclass

from ear.drawing.boxes import Label, LabelAt
from ear.drawing.rows import RowBox
from ear.labels import Conventions, LabelKind
from ear.labels.chord_cards import chord_names
from ear.labels.counting import counts, movements
from ear.labels.typing_keys import key_of_pitch, plain_letter
from ear.notes import Kind, Note, Part

LABEL_LINE = 15.0
"""Height of a line of labels, in px."""
ON_THE_PAGE = (LabelKind.FINGERS, LabelKind.WORDS, LabelKind.CHORDS)
"""What a part shows where nobody said otherwise."""


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
    def of(cls, part: Part, kinds: frozenset[LabelKind], conventions: Conventions) -> "Labels":
        names: dict[tuple[int, int], str] = {}
        if LabelKind.NAMES in kinds:
            for note in part.notes:
                fifths = part.fifths_at(note.onset_tick)
                if (note.pitch, fifths) not in names:
                    is_drums = part.kind is Kind.DRUMS
                    names[note.pitch, fifths] = (
                        conventions.sound(part, note.pitch)
                        if is_drums
                        else conventions.letter(note.pitch, fifths=fifths)
                    )
        lines: list[tuple[LabelKind, Mapping[int, str]]] = []
        if LabelKind.COUNT in kinds:
            lines.append((LabelKind.COUNT, counts(part)))
        if LabelKind.MOVEMENTS in kinds:
            lines.append((LabelKind.MOVEMENTS, {tick: str(n) for tick, n in movements(part).items()}))
        return cls(
            kinds=kinds,
            names=names,
            codes=key_of_pitch(part, left_handed=conventions.left_handed) if LabelKind.KEYS in kinds else {},
            lines=tuple(lines),
            chords=chord_names(part) if LabelKind.CHORDS in kinds and part.kind is Kind.KEYBOARD else {},
            part=part,
        )

    @property
    def has_chords(self) -> bool:
        return bool(self.chords)

    def at_note(self, note: Note) -> tuple[Label, ...]:
        found: list[Label] = []
        if note.finger is not None and LabelKind.FINGERS in self.kinds:
            found.append(Label(kind=LabelKind.FINGERS, text=str(note.finger)))
        if self.names:
            fifths = self.part.fifths_at(note.onset_tick)
            found.append(Label(kind=LabelKind.NAMES, text=self.names[note.pitch, fifths]))
        code = self.codes.get(note.pitch)
        if code is not None:
            found.append(Label(kind=LabelKind.KEYS, text=plain_letter(code), code=code))
        if note.label is not None and LabelKind.WORDS in self.kinds:
            found.append(Label(kind=LabelKind.WORDS, text=note.label))
        return tuple(found)

    def in_row(self, box: RowBox, *, chords_y: float, from_y: float) -> tuple[LabelAt, ...]:
        """Chord names over the staves of a row, the other moments' labels in lines under them."""
        found = _along(box, LabelKind.CHORDS, self.chords, chords_y)
        for k, (kind, texts) in enumerate(self.lines):
            found += _along(box, kind, texts, from_y + k * LABEL_LINE)
        return tuple(found)


def _along(box: RowBox, kind: LabelKind, texts: Mapping[int, str], y: float) -> list[LabelAt]:
    return [
        LabelAt(label=Label(kind=kind, text=text), x=box.x(tick), y=y)
        for tick, text in texts.items()
        if text and box.start_tick <= tick < box.end_tick
    ]
