"""Evenness of chords: how well the notes of each chord are balanced against one another, as they are written.

It is not in the rubrics that come with Oido. A teacher of voicing and of even chords gives it a weight.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ear.criteria.credits import FactsView, credit, nan_as_zero, reasons, spread, tenths
from ear.criteria.kind import CriterionKind
from ear.criteria.score import MISSED, CriterionScore, WorkingLine, verdict
from ear.criteria.working import COUNT, words
from ear.criterion import CriterionKey
from ear.facts.facts import Facts
from ear.findings.context import Context
from ear.findings.finding import Finding, InVelocitySteps
from ear.findings.gaps import Gaps
from ear.findings.kind import SLOW, FindingKind
from ear.measuring.figures import Floats
from ear.notes import HANDS
from ear.reader import Reader
from ear.text import gettext_noop
from ear.units import MAX_PITCH, MIN_PITCH

CHORD_EVENNESS = CriterionKey("chord_evenness")
COVERED, STICKS_OUT = verdict("covered"), verdict("sticks_out")
CHORD = "chord"
"""Column of the facts: of each written note the number of its chord, which is notes of one hand written together; None
where it stands alone."""
FULL_STEPS, NONE_STEPS = 8.0, 30.0
"""Velocity steps by which a note may stand out of its chord, against how it is written: full credit up to, none from.
Fingers that mean to play alike differ by about as much as the first."""
UNEVEN_FROM = 8.0
"""SD in velocity steps within chords from which they are called uneven."""
VOICE_FROM, MIN_VOICE = 10.0, 6
"""Velocity steps by which the lowest, the highest or the inner notes stand out, and how many there must be."""


class Voice(StrEnum):
    """Where in its chord a note is."""

    LOWEST = "lowest"
    INNER = "inner"
    HIGHEST = "highest"


def chords(c: Context) -> list[float | None]:
    """Return the column CHORD."""
    if not c.part.instrument.has_length:
        return [None] * len(c.part.notes)
    key = c.part.onset_ticks * len(HANDS) + c.part.hand_numbers
    _, number, count = np.unique(key, return_inverse=True, return_counts=True)
    return [
        float(chord) if size > 1 else None
        for chord, size in zip(number.tolist(), count[number].tolist(), strict=True)
    ]


def has_chords(facts: Facts) -> bool:
    """Return whether chords are written, as far as the facts know."""
    return CHORD in facts.rows.own


def _standing_out(chord: Floats, difference: Floats) -> Floats:
    """Of each note how far it stands out of its chord, in velocity steps; NaN where it was not played. Shape (n,) for all."""
    _, number = np.unique(chord, return_inverse=True)
    played = ~np.isnan(difference)
    count = np.bincount(number, played)
    mean = np.bincount(number, np.where(played, difference, 0.0)) / np.maximum(1.0, count)
    out: Floats = difference - mean[number]
    return out


def score(seen: FactsView) -> CriterionScore:
    """Return the score, the mean credit of the notes of chords; one that was not played earns nothing."""
    if not seen.facts.take.has_touch:
        return CriterionScore(name=CHORD_EVENNESS, score=None, lines=(WorkingLine(code="chords_no_touch"),))
    chord = seen.column(seen.facts.rows.own[CHORD])
    within = ~np.isnan(chord)
    rows = seen.targets[within]
    if not len(rows):
        return CriterionScore(
            name=CHORD_EVENNESS, score=None, lines=(WorkingLine(code="chords_not_counted"),)
        )
    out = _standing_out(chord[within], seen.column(seen.facts.rows.velocity_difference)[within])
    credits = nan_as_zero(credit(np.abs(out), full=FULL_STEPS, none=NONE_STEPS))
    credits = np.where(seen.right[within], 1.0, credits)
    why = reasons((np.isnan(out), MISSED), (out < 0, COVERED), otherwise=STICKS_OUT)
    earned = round(float(credits.sum()), 2)
    reached = tenths(100.0 * earned / len(rows))
    lines = [
        WorkingLine(code="chords_window", values={"full": int(FULL_STEPS), "none": int(NONE_STEPS)}),
        WorkingLine(code="chords_even", values={"count": int((credits >= 1.0).sum())}),
    ]
    missed = int((np.isnan(out) & (credits <= 0.0)).sum())
    if missed:
        lines.append(WorkingLine(code="not_played", values={"count": missed}))
    lines.append(
        WorkingLine(code="chords_credit", values={"earned": earned, "of": len(rows), "score": reached})
    )
    return CriterionScore(
        name=CHORD_EVENNESS, score=reached, losses=spread(100.0 - reached, rows, 1.0 - credits, why),
        lines=tuple(lines),
    )  # fmt: skip


class ChordsUneven(InVelocitySteps):
    """Notes of chords differ, by this SD."""

    KIND = FindingKind(
        code="chords_uneven", criterion=CHORD_EVENNESS, share=SLOW,
        teacher=gettext_noop("Chords are uneven: typically their notes are {size} steps of velocity apart from what is written."),
        student=gettext_noop("Some notes of your chords are lost under the others. Play each chord slowly and listen for every note."),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class ChordVoiceLoud(InVelocitySteps):
    """One voice of the chords stands out of them."""

    voice_of_chord: Voice

    KIND = FindingKind(
        code="chord_voice_loud", criterion=CHORD_EVENNESS, share=SLOW,
        teacher=gettext_noop("In chords the {voice} stands out, by {size} steps of velocity."),
        student=gettext_noop("In your chords the {voice} covers the rest. Play the chord without that note first, then add it softly."),
    )  # fmt: skip

    def gaps(self, reader: Reader) -> Gaps:
        """Return the voice's name, too."""
        return super().gaps(reader) | {"voice": reader.say(VOICE_NAMES[self.voice_of_chord], {})}


VOICE_NAMES = {
    Voice.LOWEST: gettext_noop("lowest note"), Voice.INNER: gettext_noop("middle"),
    Voice.HIGHEST: gettext_noop("highest note"),
}  # fmt: skip


def uneven_chords(c: Context) -> Iterator[Finding]:
    """Find one voice of the chords that stands out of them; or else that their notes differ."""
    column = np.array(chords(c), dtype=np.float64)
    rows = c.linked[~np.isnan(column[c.linked])]
    difference = np.array(
        [c.measures.notes[row].velocity_difference for row in rows.tolist()], dtype=np.float64
    )
    if not c.take.has_touch or not len(rows) or np.isnan(difference).all():
        return
    out = _standing_out(column[rows], difference)
    place = _voices(c, column)[rows]
    by_voice = {voice: np.flatnonzero(place == voice) for voice in Voice}
    middle = {voice: float(np.nanmean(out[at])) for voice, at in by_voice.items() if len(at) >= MIN_VOICE}
    loud = max(middle, key=lambda voice: middle[voice], default=None)
    if loud is not None and middle[loud] >= VOICE_FROM:
        ordered = c.in_order(rows[by_voice[loud]])
        yield ChordVoiceLoud(
            rows=ordered, bars=c.bars_of(ordered), size_steps=middle[loud], voice_of_chord=loud
        )
        return
    size = float(np.nanstd(out))
    if size >= UNEVEN_FROM:
        ordered = c.in_order(rows)
        yield ChordsUneven(rows=ordered, bars=c.bars_of(ordered), size_steps=size)


def _voices(c: Context, column: Floats) -> NDArray[np.str_]:
    """Of each target note its voice; “inner” also of notes that are in no chord. Shape (notes,)."""
    voices = np.full(len(column), Voice.INNER, dtype="<U7")
    within = np.flatnonzero(~np.isnan(column))
    _, number = np.unique(column[within], return_inverse=True)
    pitches = c.part.pitches[within]
    lowest, highest = np.full(number.max() + 1, MAX_PITCH), np.full(number.max() + 1, MIN_PITCH)
    np.minimum.at(lowest, number, pitches)
    np.maximum.at(highest, number, pitches)
    voices[within[pitches == highest[number]]] = Voice.HIGHEST
    voices[within[pitches == lowest[number]]] = Voice.LOWEST
    return voices


CRITERION = CriterionKind(
    key=CHORD_EVENNESS, title=gettext_noop("Evenness of chords"), score=lambda s: score(s.seen), needs="has_length",
    has_any=has_chords, columns={CHORD: chords}, speaks=6, reported=6,
    verdicts={
        COVERED: gettext_noop("covered in its chord"), STICKS_OUT: gettext_noop("sticks out of its chord"),
    },
    lines={
        "chords_no_touch": words(gettext_noop("not assessed"), gettext_noop("this input has no touch")),
        "chords_not_counted": words(
            gettext_noop("not assessed"), gettext_noop("no chord is written at the notes that count")
        ),
        "chords_window": words(
            gettext_noop("even within {full} steps of velocity from the rest of the chord"),
            gettext_noop("nothing from {none} steps off"),
        ),
        "chords_even": words(gettext_noop("notes of chords that are even"), COUNT),
        "chords_credit": words(
            gettext_noop("credit, out of all notes written in chords"), "{earned} ÷ {of} → {score}"
        ),
    },
    findings=(ChordsUneven, ChordVoiceLoud), rules=(uneven_chords,),
)  # fmt: skip
