"""Exercises of the demo school that are more than a part to be played: improvised, by ear, at one's own pace, answers
alone. All of it was written for Oido."""

from dataclasses import dataclass

from ear.editing.sections import set_section
from ear.free.exercise import FreeSpec, Pitches
from ear.notes import Kind, MeterMap, Part, TempoMap
from ear.practice.rules import RecordingRules
from ear.practice.showing import InWords, Skill, ToShow
from oido.demo.music import GANGPLANK, DemoPiece, drums, keyboard, line

BASS = FreeSpec(
    bars=8, grid_ticks=240, pitches=Pitches.CHORDS, chords="Am | F | C | G", least_a_bar=2, most_a_bar=6
)
HERON_CALL = "E4 1, G4 1, A4 2 | A4 ½, G4 ½, E4 1, D4 2 | E4 1, G4 1, C5 2 | B4 ½, A4 ½, G4 1, E4 2"
FIVE_STEPS = """
C4 ½, D4 ½, E4 ½, F4 ½, G4 ½, F4 ½, E4 ½, D4 ½ | C4 ½, E4 ½, D4 ½, F4 ½, E4 ½, G4 ½, F4 ½, D4 ½ |
C4 ½, D4 ½, E4 ½, F4 ½, G4 ½, F4 ½, E4 ½, D4 ½ | C4 4
"""
NET = "G4 1, B4 1, D5 1, B4 1 | C5 ½, B4 ½, A4 1, F♯4 1, A4 1 | G4 ½, A4 ½, B4 1, A4 ½, G4 ½, F♯4 1 | G4 4"
SLIP_TUNE = (
    "D4 1, F4 1, A4 1, F4 1 | G4 ½, F4 ½, E4 1, C4 1, E4 1 | D4 1, F4 ½, G4 ½, A4 1, C5 1 | A4 2, D4 2"
)
SLIP = set_section(
    set_section(
        keyboard(list(line(f"{SLIP_TUNE} | {SLIP_TUNE}", bar_quarters=4, hand=None)), meter=(4, 4), bpm=66, fifths=-1),
        bar=1, name="Walking",
    ),
    bar=5, name="Running", bpm=100.0,
)  # fmt: skip
MENDED = {
    Skill.QUANTISED: "The grid is quavers. With strength 100 it sounded like a machine, so I took 80.",
    Skill.LOUDNESS: "The last note was too loud: I set it down so that the tune ends instead of stopping.",
}
"""What the demo's students say of what they have shown."""
TEN_RHYTHMS = "Ten rhythms for the quay"
"""The booklet: every rhythm that there is a rule for, of the first piece."""
A_WEEK = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoTask(DemoPiece):
    """`handed_in` students hand in, each as many takes as the rules ask."""

    free: FreeSpec | None = None
    backing: Part | None = None
    handed_in: int = 0


TASKS = (
    DemoTask(
        title="Bass under the Lamp",
        instructions="Three bass lines of your own over the beat, of the notes of the chord in each bar. Two notes a bar "
        "are enough; six are plenty.",
        part=BASS.page(kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(96.0)),
        level="building",
        rules=RecordingRules(least_takes=3, handed_in_takes=3),
        free=BASS,
        backing=drums(GANGPLANK, meter=(4, 4), bpm=96, step_ticks=120),
        handed_in=4,
    ),
    DemoTask(
        title="Heron Call",
        instructions="Listen, sing it back, find it on the keys. It starts on E.",
        part=keyboard(list(line(HERON_CALL, bar_quarters=4, hand=None)), meter=(4, 4), bpm=80, fifths=0),
        level="building",
        rules=RecordingRules(is_by_ear=True, listen_limit=4, must_listen_first=True),
        handed_in=3,
    ),
    DemoTask(
        title="Five Steps Alone",
        instructions="No click: set off at a pace that you can keep, and keep it. Every note as long as its neighbours.",
        part=keyboard(list(line(FIVE_STEPS, bar_quarters=4, hand=None)), meter=(4, 4), bpm=84, fifths=0),
        level="first-steps",
        rules=RecordingRules(has_click=False),
        handed_in=4,
    ),
    DemoTask(
        title="Mending the Net",
        instructions="Record the tune once, as it comes. Then mend a copy of it, and say what you did and why.",
        part=keyboard(list(line(NET, bar_quarters=4, hand=None)), meter=(4, 4), bpm=88, fifths=1),
        level="building",
        rules=RecordingRules(
            to_show=(
                ToShow(skill=Skill.QUANTISED, in_words=InWords.LESSON, terms="grid, strength"),
                ToShow(skill=Skill.WRONG_NOTE),
                ToShow(skill=Skill.LOUDNESS, in_words=InWords.OWN),
                ToShow(skill=Skill.REPEATED),
            ),
        ),
        handed_in=2,
    ),
    DemoTask(
        title="Down to the Slip",
        instructions="First walk, then run: the same tune at both tempos. Listen to the click in bar 5.",
        part=SLIP,
        level="building",
        rules=RecordingRules(slower_percent=20),
        handed_in=2,
    ),
    DemoTask(
        title="What the Tide Left",
        instructions="Nothing to play this week: think back over your practice.",
        part=keyboard(list(line("C4 4", bar_quarters=4, hand=None)), meter=(4, 4), bpm=80, fifths=0),
        level="first-steps",
        rules=RecordingRules(
            has_questions_only=True,
            questions=(
                "Which piece got better since the last lesson, and why?",
                "What do you want to be asked?",
            ),
        ),
        handed_in=2,
    ),
)
