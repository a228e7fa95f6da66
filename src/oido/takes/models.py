"""Takes as they were recorded, what was measured in them, what students made of them."""

import uuid
from collections.abc import Iterable
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from ear.editing.transpose import to_key
from ear.findings.kind import PlayedOn
from ear.formats.events import RawEvent
from ear.free.exercise import FreeExercise
from ear.free.realised import realised
from ear.judging.settings import TakeSettings
from ear.notes import Kind, Part
from ear.notes import Take as EarTake
from ear.notes.ending import Ending
from ear.practice.ladder import Rung
from ear.practice.showing import Showing
from ear.recording.passes import Pass, PassMode, has_touch, layered, pass_of_notes, standing
from ear.recording.take_settings import as_set
from oido.assignments.models import Assignment
from oido.common.sources import Source
from oido.exercises.history import History, HistoryState
from oido.exercises.models import Exercise, TargetPart
from oido.people.models import SchoolRow, User
from oido.rubrics.models import RubricVersion

MAX_NAME_LENGTH = 60
SOON = timedelta(minutes=1)
"""Whoever measures a take has so long before somebody else does."""


class WayChoice(models.TextChoices):
    OVER = PassMode.OVER.value, _("over what is there")
    REPLACE = PassMode.REPLACE.value, _("replacing what is there")


class Recorded(models.Model):
    """What came from an instrument in one go. Never changed once it is stored."""

    id = models.UUIDField(primary_key=True)
    """Made in the browser, so that what is sent twice arrives once."""
    events = models.JSONField()
    """Raw, as `ear.formats.events` says: times from the scheduled downbeat, no latency off."""
    source = models.CharField(max_length=10, choices=Source.choices)
    device = models.CharField(max_length=120, blank=True)
    latency_ms = models.FloatField(default=0.0)
    """Measured for the set-up; taken off when it is read."""
    pads = models.JSONField(default=dict)
    """Numbers that the instrument's pads send, and the percussion numbers that are meant."""
    recorded_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True

    def as_pass(self, **more: Any) -> Pass:
        # Checked when they came, and not changed since.
        events: tuple[RawEvent, ...] = tuple((t, status, a, b) for t, status, a, b in self.events)
        return Pass(
            events=events,
            latency_ms=self.latency_ms,
            has_touch=Source(self.source).row.has_touch or has_touch(events),
            pads={int(number): meant for number, meant in self.pads.items()},
            **more,
        )


class Take(SchoolRow, Recorded):
    """One recorded attempt: a first pass, and those laid over it."""

    assignment = models.ForeignKey(Assignment, on_delete=models.PROTECT, related_name="takes")
    student = models.ForeignKey(User, on_delete=models.PROTECT, related_name="takes")
    part = models.ForeignKey(TargetPart, on_delete=models.PROTECT, related_name="takes")
    number = models.PositiveIntegerField()
    """Counted from 1 for each student and assignment."""
    tempo_bpm = models.DecimalField(max_digits=5, decimal_places=2)
    """The click's, in quarter notes a minute."""
    fifths = models.SmallIntegerField(null=True)
    """The key in which it was recorded; None for the part's own."""
    asks_click = models.BooleanField(default=True)
    """The exercise asked for a click when it was recorded; else the player's own pulse counts."""
    heard_click = models.BooleanField(default=True)
    ending = models.CharField(
        max_length=10, choices=[(one.value, one.value) for one in Ending], default=Ending.STOPPED
    )
    """Why the first pass ended, as `ear.notes.ending` has it."""
    handed_in_at = models.DateTimeField(null=True)
    shown = models.JSONField(null=True)
    """What its copy was to show when it was handed in, and shows, as `ear.practice.showing` writes it; None where nothing
    was asked."""
    name = models.CharField(max_length=MAX_NAME_LENGTH, blank=True)
    is_starred = models.BooleanField(default=False)
    deleted_at = models.DateTimeField(null=True)
    judgement = models.ForeignKey("Judgement", on_delete=models.SET_NULL, null=True, related_name="+")
    """That which counts. None where what was stored cannot be read by today's code."""
    proposed = models.ForeignKey("Judgement", on_delete=models.SET_NULL, null=True, related_name="+")
    """That of a newer version, where students have seen the mark: until a teacher agrees."""
    measure_after = models.DateTimeField(null=True, db_index=True, default=timezone.now)
    """Set together with whatever has to be measured, and cleared with what was measured: a process that dies in between
    leaves it, and a worker measures the take after this time. None where nothing waits."""
    kit_pads = models.JSONField(default=dict)
    """Of its set-up's kit: numbers that pads send, and those that are meant. What its own recording says goes
    before."""
    settings = models.JSONField(default=dict)
    """What a teacher has set for this take alone, as `ear.judging.settings` writes it. What was recorded
    stays as it is."""

    class Meta:
        ordering = ["-number"]
        constraints = [
            # The student first: takes of an assignment are to be found by the index below, which leaves out what was never
            # handed in.
            models.UniqueConstraint(
                fields=["student", "assignment", "number"], name="take_number_by_student"
            ),
        ]
        # What was handed in is asked for everywhere; most of what was recorded never is.
        indexes = [models.Index(fields=["assignment", "handed_in_at"])]

    def __str__(self) -> str:
        return f"take {self.number} of {self.student}"

    @property
    def exercise(self) -> Exercise:
        """That it was recorded with: the one that was given, or a student's own version of it."""
        return self.part.exercise

    @property
    def played_on(self) -> PlayedOn:
        """What advice to the student about this take speaks of."""
        return Source(self.source).row.played_on[Kind(self.exercise.kind)]

    @property
    def is_handed_in(self) -> bool:
        return self.handed_in_at is not None

    @property
    def showing(self) -> Showing | None:
        return None if self.shown is None else Showing.from_json(self.shown)

    @property
    def kept_passes(self) -> list["TakePass"]:
        """Passes laid over the first one and not taken back, in order."""
        return [one for one in self.passes.all() if one.undone_at is None]

    @property
    def set_for_it(self) -> TakeSettings:
        return TakeSettings.from_json(self.settings)

    @property
    def measurement_inputs(self) -> tuple[object, ...]:
        """Return what a measurement depends on and can change: the passes that count and the settings of the take."""
        return (
            repr(self.settings),
            repr(self.kit_pads),
            tuple((one.pk, one.undone_at) for one in self.passes.order_by("number")),
        )

    def _layers(self, settings: TakeSettings | None = None) -> list[Pass]:
        kit = {int(number): meant for number, meant in self.kit_pads.items()}
        own = [self.as_pass(), *(one.read() for one in self.kept_passes)]
        layers = [replace(one, pads={**kit, **one.pads}) if kit else one for one in own]
        return as_set(layers, settings or self.set_for_it)

    @property
    def is_being_measured(self) -> bool:
        """It will be measured soon: not one that failed and is put off for long."""
        return self.measure_after is not None and self.measure_after <= timezone.now() + SOON

    def read(self, settings: TakeSettings | None = None) -> EarTake:
        """Return the take's notes by its own settings, or by others if passed."""
        return layered(self._layers(settings))

    def pass_of_notes(self) -> tuple[int, ...]:
        """Return, for each note, the pass in which it was played, counted from 0."""
        return pass_of_notes(self._layers())

    def standing_events(self) -> tuple[tuple[RawEvent, ...], ...]:
        """Return, for each pass, the events not recorded over, with latency removed."""
        return standing(self._layers())

    def free(self) -> FreeExercise | None:
        """Return what a free exercise asked for, at the click's tempo, or None for a written part."""
        spec = self.part.spec
        return None if spec is None else spec.exercise(self.page(), has_click=self.asks_click)

    def target(self) -> Part:
        """Return what should have been played: the part in the take's key at its click's tempo, or, for a free
        exercise, the take's own notes where they should have been.
        """
        asked = self.free()
        return self.page() if asked is None else realised(asked, self.read(), page=self.page()).part

    def page(self) -> Part:
        """Return the part that was on the page, in the take's key at its click's tempo."""
        part = self.part.read()
        if self.fifths is not None and self.fifths != part.fifths:
            part = to_key(part, fifths=self.fifths).part
        return part.at_tempo(float(self.tempo_bpm))


class TakePass(Recorded):
    """A further pass into a take. Taken back, it stays stored and no longer counts."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="passes")
    number = models.PositiveIntegerField()
    """From 2: the take's own events are the first pass."""
    way = models.CharField(max_length=10, choices=WayChoice.choices)
    from_ms = models.FloatField()
    until_ms = models.FloatField()
    pitches = models.JSONField(default=list)
    """What it replaces: these pitches, a lane's; empty for all."""
    undone_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["take", "number"]
        constraints = [models.UniqueConstraint(fields=["take", "number"], name="pass_number_in_take")]

    def read(self) -> Pass:
        return self.as_pass(
            way=PassMode(self.way),
            from_ms=self.from_ms,
            until_ms=self.until_ms,
            pitches=frozenset(self.pitches),
        )


class KitSetUp(models.Model):
    """A student's kit on one device: what its pads send and what is meant."""

    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="kits")
    device = models.CharField(max_length=120, blank=True)
    """By its name, as takes have it."""
    pads = models.JSONField(default=dict)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["student", "device"], name="one_kit_of_device")]


class StandSettings(models.Model):
    """What a student has set at the Stand, by name with the time at which it was set, as the page sends it."""

    student = models.OneToOneField(User, on_delete=models.CASCADE, related_name="stand_settings")
    kept = models.JSONField(default=dict)
    changed_at = models.DateTimeField(auto_now=True)


class TakeFile(models.Model):
    """The file of a take that was recorded elsewhere, as it came."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="file")
    name = models.CharField(max_length=200)
    data = models.BinaryField()


class CorrectedCopy(History):
    """A copy of a take with corrections; the take itself stays as it was recorded."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="corrected")


class CopyState(HistoryState):
    """One state of a corrected copy; number 0 is the take as it was recorded."""

    history = models.ForeignKey(CorrectedCopy, on_delete=models.CASCADE, related_name="states")

    class Meta(HistoryState.Meta):
        constraints = [
            models.UniqueConstraint(fields=["history", "number"], name="state_number_in_copy"),
        ]


class HandIn(models.Model):
    """What a student says with what is handed in for an assignment."""

    assignment = models.ForeignKey(Assignment, on_delete=models.PROTECT, related_name="hand_ins")
    student = models.ForeignKey(User, on_delete=models.PROTECT, related_name="hand_ins")
    receipt = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    note = models.TextField(blank=True, max_length=2000)
    answers = models.JSONField(default=list)
    """[[question, answer], …], the questions as they were put."""
    first_at = models.DateTimeField()
    changed_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assignment", "student"], name="one_hand_in_of_student"),
        ]

    def answered(self, questions: Iterable[str]) -> list[tuple[str, str]]:
        """Return the questions as they are now, each with its answer."""
        known = dict(self.answers)
        return [(question, known.get(question, "")) for question in questions]


class PracticeDay(models.Model):
    """What a student practised on one day, by the school's calendar. For the student alone: nobody else is shown it."""

    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="practice_days")
    day = models.DateField()
    seconds = models.FloatField(default=0)
    """Of playing: loops against the click, and bars at the student's own pace."""
    passages = models.JSONField(default=list)
    """Which bars, each as [assignment, first bar, last bar], in the order in which they were first practised."""

    class Meta:
        constraints = [models.UniqueConstraint(fields=["student", "day"], name="one_practice_day_of_student")]


class Visit(models.Model):
    """When a student was at the Stand with an assignment."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="visits")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="visits")
    opened_at = models.DateTimeField()
    """For the first time."""
    last_at = models.DateTimeField()
    practised_at = models.DateTimeField(null=True)
    """For the last time."""
    loops = models.PositiveIntegerField(default=0)
    """Played while practising."""
    heard = models.PositiveIntegerField(default=0)
    """Times that the part was heard, where that is counted."""
    hearing = models.UUIDField(null=True)
    """The last one that was counted, by the page's own number for it: fetched again since it never sounded, it is not
    counted again."""
    hearing_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["assignment", "student"], name="one_visit_of_student")]


class RungClimbed(models.Model):
    """How a student has played one rung of a ladder."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="rungs")
    student = models.ForeignKey(User, on_delete=models.CASCADE, related_name="rungs")
    key = models.CharField(max_length=40)
    """Of the rung as it was: a rung that a teacher changes is another one."""
    points = models.JSONField(default=list)
    """Of each loop, the latest last."""
    passed_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["assignment", "student", "key"], name="one_climb_of_rung"),
        ]


def rung_key(rung: Rung) -> str:
    return uuid.uuid5(RUNG_NAMESPACE, repr(sorted(rung.to_json().items()))).hex


RUNG_NAMESPACE = uuid.UUID("52f0d0f4-3a2e-4b4c-9a43-6f0a1f9d2a17")


class Measurement(models.Model):
    """What the core measured in a take, by one version of its code. A version that measures a take again adds a row
    only while the one before is that of a mark in force."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="measurements")
    version = models.CharField(max_length=20)
    facts = models.JSONField()
    """Of any schema: read by `ear.extraction.codec` alone."""
    imprint = models.BinaryField(null=True)
    """By which the same recording is found among a class's, as `ear.measuring.fairness` writes it. None in
    what an older version measured."""
    figures = models.JSONField(default=dict)
    """By which progress is told, as `ear.progress.standings` writes them: small, to be read for many."""
    measured_at = models.DateTimeField(auto_now=True)

    class Meta:
        indexes = [models.Index(fields=["take", "version"])]


class Judgement(models.Model):
    """What a take is worth by one rubric. Never changed: another rubric adds a row."""

    measurement = models.ForeignKey(Measurement, on_delete=models.CASCADE, related_name="judgements")
    rubric = models.ForeignKey(RubricVersion, on_delete=models.PROTECT, null=True, related_name="judgements")
    """None for Oido's own."""
    version = models.CharField(max_length=20)
    """Of the judging code."""
    scores = models.JSONField()
    """As `ear.judging.codec` writes them."""
    made_at = models.DateTimeField(auto_now_add=True)
