"""Exercises of the demo school that are more than a part to be played: improvised, by ear, at one's own pace, answers
alone. All of it was written for Oido."""

from dataclasses import dataclass

from ear.editing.sections import set_section
from ear.free.exercise import FreeSpec, Pitches
from ear.library.piece import keys, kit
from ear.notes import Kind, MeterMap, Part, TempoMap
from ear.practice.rules import RecordingRules
from ear.practice.showing import InWords, Skill, ToShow
from oido.demo.music import GANGPLANK, SEMIQUAVER, DemoPiece

BASS = FreeSpec(
    bars=8, grid_ticks=240, pitches=Pitches.CHORDS, chords="Am | F | C | G", least_a_bar=2, most_a_bar=6
)
HERON_CALL = "R: E4/4 G A/2 | A/8 G E/4 D/2 | E/4 G C5/2 | B4/8 A G/4 C/2"
FIVE_STEPS = "R: C4/8 D E F G F E D | C E D F E G F D | C D E F G F E D | C/1"
NET = "R: G4/4 B D5 B4 | C5/8 B4 A/4 F♯ A | G/8 A B/4 A/8 G F♯/4 | G/1"
SLIP_TUNE = "D4/4 F A F | G/8 F E/4 C E | D F/8 G A/4 C5 | A4/2 D"
SLIP = set_section(
    set_section(keys(f"R: {SLIP_TUNE} | {SLIP_TUNE}", key="D minor", bpm=66)(), bar=1, name="Walking"),
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
        backing=kit(GANGPLANK, step=SEMIQUAVER, bpm=96, ends_on=())(),
        handed_in=4,
    ),
    DemoTask(
        title="Heron Call",
        instructions="Listen, sing it back, find it on the keys. It starts on E.",
        part=keys(HERON_CALL, key="C", bpm=80)(),
        level="building",
        rules=RecordingRules(is_by_ear=True, listen_limit=4, must_listen_first=True),
        handed_in=3,
    ),
    DemoTask(
        title="Five Steps Alone",
        instructions="No click: set off at a pace that you can keep, and keep it. Every note as long as its neighbours.",
        part=keys(FIVE_STEPS, key="C", bpm=84)(),
        level="first-steps",
        rules=RecordingRules(has_click=False),
        handed_in=4,
    ),
    DemoTask(
        title="Mending the Net",
        instructions="Record the tune once, as it comes. Then mend a copy of it, and say what you did and why.",
        part=keys(NET, key="G", bpm=88)(),
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
        part=keys("R: C4/1", key="C", bpm=80)(),
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
