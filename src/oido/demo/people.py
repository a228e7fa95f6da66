"""Who is in the demo school, and how they play. All names are invented."""

from dataclasses import dataclass

from ear.criteria.dynamics import DYNAMICS
from ear.criteria.flow import FLOW
from ear.criteria.length import LENGTH
from ear.criteria.notes import NOTES
from ear.criteria.timing import TIMING
from ear.judging.rubric import Band, CriterionLevel, HelpCost, Rubric, TeacherCriterion
from ear.notes import Kind
from ear.players.robot import Habits, Jump, TempoHabit

SCHOOL = "The Slipway Evening School of Music"
TIME_ZONE = "Europe/London"


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    username: str
    first: str
    last: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoStudent(Person):
    habits: Habits


INES = Person(username="ines", first="Ines", last="Calloway")
OLWEN = Person(username="olwen", first="Olwen", last="Tarrant")
BRAM = Person(username="bram", first="Bram", last="Okoro-Vale")

KEYS_CLASS = "Tuesday Keys"
KIT_CLASS = "Thursday Kit"

KEYS_PUPILS = (
    DemoStudent(username="maren", first="Maren", last="Osei", habits=Habits(lead_ms=-14, spread_ms=20, late_places=((480, -42),), velocity_spread=7, unchanged_pedal=0.35)),
    DemoStudent(username="tobi", first="Tobi", last="Lindqvist-Amo", habits=Habits(spread_ms=16, wrong_keys=0.09, velocity_spread=9)),
    DemoStudent(username="aiko", first="Aiko", last="Ferrant", habits=Habits(spread_ms=9, velocity_spread=4)),
    DemoStudent(username="sami", first="Sami", last="Draywater", habits=Habits(drift_ms_per_bar=-16, spread_ms=15, velocity_spread=8)),
    DemoStudent(username="lena", first="Lena", last="Duartes", habits=Habits(lead_ms=52, spread_ms=18, velocity_spread=7, pedal_ms=280)),
    DemoStudent(username="pavel", first="Pavel", last="Hestholm", habits=Habits(spread_ms=24, misses=0.1, velocity_spread=11, unchanged_pedal=0.6)),
    DemoStudent(username="nuri", first="Nuri", last="Vancek", habits=Habits(spread_ms=12, jumps=(Jump(bar=5, quarters=1.6),), velocity_spread=6)),
    DemoStudent(username="otis", first="Otis", last="Brandauer", habits=Habits(spread_ms=13, length=0.45, accents=0.1, velocity_spread=5, without_pedal=True)),
    DemoStudent(username="ruza", first="Ruža", last="Keleman", habits=Habits(spread_ms=11, left_hand_ms=38, chord_roll_ms=22, velocity_spread=5)),
    DemoStudent(username="finn", first="Finn", last="Adeyo", habits=Habits(spread_ms=19, jumps=(Jump(bar=6, back_bars=2, quarters=0.7),), wrong_keys=0.04, velocity_spread=8)),
    DemoStudent(username="cleo", first="Cleo", last="Marsh-Ito", habits=Habits(tempo_changes=(TempoHabit(bar=5, ratio=0.8), TempoHabit(bar=7, ratio=1.0)), spread_ms=14, velocity_spread=6)),
    DemoStudent(username="dario", first="Dario", last="Quillfeather", habits=Habits(spread_ms=10, grazes=0.12, doubles=0.05, velocity_spread=6)),
)  # fmt: skip
KIT_PUPILS = (
    DemoStudent(username="joss", first="Joss", last="Hallorand", habits=Habits(spread_ms=14, late_lanes=((42, -26), (51, -26)), velocity_spread=7)),
    DemoStudent(username="mika", first="Mika", last="Torvane", habits=Habits(spread_ms=8, velocity_spread=4)),
    DemoStudent(username="bea", first="Bea", last="Ostrand", habits=Habits(drift_ms_per_bar=12, spread_ms=13, velocity_spread=6)),
    DemoStudent(username="kwame", first="Kwame", last="Ellery-Pohl", habits=Habits(lead_ms=-46, spread_ms=15, velocity_spread=7)),
    DemoStudent(username="tilda", first="Tilda", last="Roemer", habits=Habits(spread_ms=17, misses=0.08, velocity_spread=9)),
    DemoStudent(username="ivo", first="Ivo", last="Castellane", habits=Habits(spread_ms=11, doubles=0.1, velocity_spread=6)),
    DemoStudent(username="nadia", first="Nadia", last="Fenwright", habits=Habits(spread_ms=16, late_lanes=((38, 34),), velocity_spread=6)),
    DemoStudent(username="gus", first="Gus", last="Sorrel", habits=Habits(spread_ms=26, wrong_keys=0.05, velocity_spread=12)),
    DemoStudent(username="hana", first="Hana", last="Wickstead", habits=Habits(spread_ms=10, accents=-0.5, velocity_spread=5)),
    DemoStudent(username="leif", first="Leif", last="Bonnamy", habits=Habits(spread_ms=12, jumps=(Jump(bar=4, skip_bars=1),), velocity_spread=6)),
    DemoStudent(username="yara", first="Yara", last="Pellington", habits=Habits(spread_ms=13, stop_after_bar=6, velocity_spread=6)),
    DemoStudent(username="remy", first="Rémy", last="Aldergrove", habits=Habits(tempo_ratio=1.09, spread_ms=12, velocity_spread=7)),
)  # fmt: skip

REMARKS = (
    (2, 1, "Look ahead here: the hand can be on its way before the bar line."),
    (5, 2, "Listen to the click through the long note, then place the next one."),
    (None, None, "Much steadier than last time. Now the same with a smile on the accents."),
    (3, 1, "Count this bar aloud once, then play it. It will sit."),
    (None, None, "A calm take. Hand in the next one five beats faster if you dare."),
)
ANSWERS = (
    "Bar 7, because of the quick notes. Counting aloud helped.",
    "Bar 4: I always ran on. I tapped the beat with my foot.",
    "The jump in the left hand in bar 3. Slowly first, then at 84.",
    "Bar 8. I looked ahead instead of at my hands.",
)
"""Made-up answers of students to what an exercise asks."""

QUESTION = "Is it better to wait for the click in bar 5, or to keep my own pulse and meet it later?"
PHRASES = (
    "{name}, count bar {bar} aloud before you play it.",
    "Steady to {steadiness}: that is the calm we were looking for.",
    "You came in {lag} against the click. Listen to two clicks before the first note.",
    "Bar {bar}, beat {beat}: fingers first, speed later.",
)
RUBRIC_NAME = "Slipway evening rubric"


def rubric(kind: Kind) -> Rubric:
    """The school's own, for keyboard or drums."""
    measured = {
        Kind.KEYBOARD: ((NOTES, 30), (TIMING, 30), (FLOW, 10), (DYNAMICS, 5), (LENGTH, 5)),
        Kind.DRUMS: ((NOTES, 25), (TIMING, 40), (FLOW, 10), (DYNAMICS, 5)),
    }[kind]
    return Rubric(
        weights=measured,
        bands=(
            Band(least=0, name="Still moored"), Band(least=50, name="Under way"), Band(least=70, name="In the current"),
            Band(least=85, name="Full sail"),
        ),
        teacher_criteria=(
            TeacherCriterion(
                key="hand-posture", label="Posture", weight=10,
                steps=(CriterionLevel(name="stiff", points=30), CriterionLevel(name="easier", points=70), CriterionLevel(name="at ease", points=100)),
            ),
            TeacherCriterion(
                key="hand-told", label="In class", weight=10,
                items=("explained it", "played it in time", "no help needed"),
            ),
        ),
        help=(HelpCost(name="none", cost=0), HelpCost(name="a hint", cost=3), HelpCost(name="played along", cost=10)),
        out_of=20,
        half_points=True,
    )  # fmt: skip
