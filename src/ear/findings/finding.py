"""What an ear note is."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ear.marking.rubric import CriterionName

Translate = Callable[[str], str]


def _as_it_is(text: str) -> str:
    return text


@dataclass(frozen=True, slots=True, kw_only=True)
class Sentence:
    """A text with named gaps, and what fills them. The text is the key for a translation."""

    text: str
    figures: Mapping[str, str | int | float]

    def said(self, translate: Translate = _as_it_is) -> str:
        return translate(self.text).format(**self.figures)


@dataclass(frozen=True, slots=True, kw_only=True)
class Practice:
    """A suggested rung: which bars, at which share of the tempo, with which hand or lane alone."""

    first_bar: int
    last_bar: int
    tempo_share: float
    alone: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One ear note.

    `cost` is in points of the total mark; 0 for praise and for facts. `targets` and `takes`
    number the notes that are its evidence.
    """

    kind: str
    criterion: CriterionName | None
    cost: float
    size: float
    unit: str
    first_bar: int | None
    last_bar: int | None
    targets: tuple[int, ...]
    takes: tuple[int, ...]
    for_teacher: Sentence
    for_student: Sentence
    is_praise: bool = False
    place: str | None = None
    """A lane, a hand or a place in the bar, where the finding is about one."""
    quarter: float | None = None
    """Where in the target, where it is a point."""
    practice: Practice | None = None
    """None for praise, and where practising bars is not the cure."""
