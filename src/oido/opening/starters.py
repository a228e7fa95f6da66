"""A few exercises to begin with, made by the core's own patterns: three for keyboard, three for drums."""

from decimal import Decimal

from django.utils.translation import gettext as _

from ear.notes import Part
from ear.patterns.beats import beat
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.lines import five_finger, scale
from ear.patterns.modes import Mode, Tonic
from ear.practice.proposals import propose_ladder
from ear.units import TICKS_PER_QUARTER
from oido.common.readers import PAGES
from oido.exercises.services import NewExercise

EIGHTH = TICKS_PER_QUARTER // 2


def starters() -> tuple[NewExercise, ...]:
    """Return the starter exercises in the reader's language."""
    c = Tonic.named("C")
    return (
        _new(_("Five fingers on C"), _("One finger for each key. Listen for even lengths."), five_finger(c), 80),
        _new(_("C major, up and down"), _("Thumb under without a bump: no note louder than the others."), scale(c, Mode.MAJOR), 72),
        _new(
            _("Three chords"), _("Change with the bar; all notes of a chord at once."),
            chord_sequence(read_sequence("C | F | G7 | C"), rhythm="x-x-"), 76,
        ),
        _new(
            _("Kick and snare"), _("Kick on one and three, snare on two and four, exactly with the click."),
            beat({"kick": "x...x..." * 4, "snare": "..x...x." * 4}, step_ticks=EIGHTH), 80,
        ),
        _new(
            _("First groove"), _("Hi-hat keeps the time; kick and snare fit around it."),
            beat({"hat": "xxxxxxxx" * 4, "snare": "..X...X." * 4, "kick": "x...x..." * 4}, step_ticks=EIGHTH), 84,
        ),
        _new(
            _("Groove with an off-beat kick"), _("The second kick comes before the beat: do not rush it."),
            beat({"hat": "xxxxxxxx" * 4, "snare": "..X...X." * 4, "kick": "x..x.x.." * 4}, step_ticks=EIGHTH), 84,
        ),
    )  # fmt: skip


def _new(title: str, instructions: str, part: Part, bpm: int) -> NewExercise:
    return NewExercise(
        title=title, kind=part.kind.value, instructions=instructions, tempo_bpm=Decimal(bpm), count_in_bars=2,
        level="first-steps", part=part, ladder=propose_ladder(part, reader=PAGES),
    )  # fmt: skip
