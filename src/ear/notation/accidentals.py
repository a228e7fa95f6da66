"""Where accidentals stand: in order of time, through all voices of a staff."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from itertools import chain, groupby
from typing import NamedTuple

from ear.notation.graces import WrittenGrace
from ear.notation.written_notes import Written, WrittenNote
from ear.notes.pitch import key_alteration

OCTAVE_STEPS = 7


class _Sign(NamedTuple):
    """What may have an accidental: the head of a note at a tick, or the grace note before it."""

    tick: int
    is_head: bool
    note: int


@dataclass(slots=True)
class Accidentals:
    """Those of one staff, from bar to bar: what was altered in a bar is taken back in the next one, in brackets."""

    before: dict[int, set[int]] = field(default_factory=dict)
    """Alterations that the bar before had, by step within the octave."""

    def bar(self, lines: Sequence[Sequence[Written]], fifths: int) -> list[tuple[Written, ...]]:
        """Return the voices of the next bar with their accidentals."""
        showing, cautionary = self._shown(lines, fifths)
        return [tuple(_marked(w, showing, cautionary) for w in line) for line in lines]

    def _shown(self, lines: Iterable[Sequence[Written]], fifths: int) -> tuple[set[_Sign], set[_Sign]]:
        """What needs an accidental, and what has one in brackets.

        One holds for its step to the end of the bar, in all voices of the staff, from where it stands; a head that a tie
        comes to has none, and makes none hold.
        """
        in_force: dict[int, int | None] = {}
        showing, cautionary = set[_Sign](), set[_Sign]()
        altered: dict[int, set[int]] = {}
        struck: list[tuple[_Sign, WrittenNote | WrittenGrace]] = []
        for written in chain.from_iterable(lines):
            for head in written.heads:
                if head.lane is not None:
                    continue
                if head.is_tied_from:
                    altered.setdefault(head.step % OCTAVE_STEPS, set()).add(head.alteration)
                    continue
                struck.append((_Sign(written.tick, True, head.note), head))
                if head.grace is not None:
                    struck.append((_Sign(written.tick, False, head.note), head.grace))
        # A grace note sorts before its head, because it is read first and its accidental holds for the head.
        struck.sort(key=_moment)
        for _, together in groupby(struck, key=_moment):
            by_step: dict[int, list[tuple[_Sign, int]]] = {}
            for sign, written_sign in together:
                by_step.setdefault(written_sign.step, []).append((sign, written_sign.alteration))
            for step, signs in by_step.items():
                # None stands for a step whose accidental is ambiguous: the next note must state its own.
                holds = in_force.get(step, key_alteration(step, fifths=fifths))
                names = {alteration for _, alteration in signs}
                # F and F sharp struck together: both say which they are, and so does what follows.
                if names != {holds}:
                    showing.update(sign for sign, _ in signs)
                    in_force[step] = names.pop() if len(names) == 1 else None
                elif step not in in_force and self._is_doubtful(step, names, altered):
                    cautionary.update(sign for sign, _ in signs)
                    in_force[step] = holds
            for step, signs in by_step.items():
                altered.setdefault(step % OCTAVE_STEPS, set()).update(alteration for _, alteration in signs)
        self.before = altered
        return showing, cautionary

    def _is_doubtful(self, step: int, names: set[int], altered: dict[int, set[int]]) -> bool:
        """Was the step another one in the bar before, or is it in another octave of this one?"""
        here = altered.get(step % OCTAVE_STEPS, set())
        return bool(here - names or (not here and self.before.get(step % OCTAVE_STEPS, set()) - names))


def _moment(struck: tuple[_Sign, object]) -> tuple[int, bool]:
    sign, _ = struck
    return sign.tick, sign.is_head


def _marked(written: Written, showing: set[_Sign], cautionary: set[_Sign]) -> Written:
    def marked(head: WrittenNote) -> WrittenNote:
        grace = head.grace
        if grace is not None:
            grace = replace(grace, shows_accidental=_Sign(written.tick, False, head.note) in showing)
        sign = _Sign(written.tick, True, head.note)
        if head.is_tied_from:
            return head
        return replace(
            head,
            shows_accidental=sign in showing or sign in cautionary,
            is_cautionary=sign in cautionary,
            grace=grace,
        )

    return replace(written, heads=tuple(map(marked, written.heads)))
