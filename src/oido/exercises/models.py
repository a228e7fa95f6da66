"""Exercises and the history of their target parts."""

import json
import zlib
from typing import Any

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.criteria.levels import DEFAULT_LEVEL, LEVELS
from ear.formats.part_json import part_from_json
from ear.formats.sandboxed_reader import checked
from ear.free.exercise import FreeSpec
from ear.labels import LabelKind
from ear.labels.chosen import ON_THE_PAGE
from ear.labels.kinds import label_kinds
from ear.notes import Instrument, Kind, Part
from ear.practice.ladder import Ladder
from ear.practice.rules import RecordingRules
from oido.exercises.showing import describe_showing
from oido.people.models import SchoolRow, User

MAX_TAG_LENGTH, MAX_TITLE_LENGTH = 40, 120


class KindChoice(models.TextChoices):
    KEYBOARD = Kind.KEYBOARD.value, _("Keyboard")
    DRUMS = Kind.DRUMS.value, _("Drums")


class Task(models.TextChoices):
    """What a student is to do."""

    PART = "part", _("play what is written")
    FREE = "free", _("improvise")
    BY_EAR = "by-ear", _("play by ear")
    SHOW = "show", _("show and explain")
    QUESTIONS = "questions", _("answer questions")


LABEL_NAMES = {
    LabelKind.FINGERS: _("fingers"),
    LabelKind.NAMES: _("note names"),
    LabelKind.KEYS: _("typing keys"),
    LabelKind.WORDS: _("words"),
    LabelKind.COUNT: _("count"),
    LabelKind.MOVES: _("moves"),
    LabelKind.CHORDS: _("chord names"),
}


def labels_at_first() -> list[str]:
    return [kind.value for kind in ON_THE_PAGE]


class Tag(SchoolRow):
    """A word by which a school finds exercises again."""

    name = models.CharField(max_length=MAX_TAG_LENGTH)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["school", "name"], name="tag_name_in_school")]

    def __str__(self) -> str:
        return self.name


class Exercise(SchoolRow):
    """What a teacher sets: a target part with instructions and recording rules."""

    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="exercises")
    title = models.CharField(pgettext_lazy("label", "title"), max_length=MAX_TITLE_LENGTH)
    kind = models.CharField(pgettext_lazy("label", "kind"), max_length=10, choices=KindChoice.choices)
    instructions = models.TextField(_("instructions"), blank=True, max_length=4000)
    tempo_bpm = models.DecimalField(pgettext_lazy("label", "tempo"), max_digits=5, decimal_places=2)
    count_in_bars = models.PositiveSmallIntegerField(_("count-in bars"), default=1)
    level = models.CharField(
        _("level of strictness"),
        max_length=20,
        default=DEFAULT_LEVEL.key,
        choices=[(level.key, _(level.name)) for level in LEVELS.values()],
    )
    created_at = models.DateTimeField(auto_now_add=True)
    part = models.OneToOneField("TargetPart", on_delete=models.PROTECT, null=True, related_name="current_of")
    """The part in force; older ones stay, for the takes that were recorded against them."""
    labels = models.JSONField(_("labels"), default=labels_at_first)
    """Kinds of labels that the page shows; a student can switch each off."""
    rules = models.JSONField(_("recording rules"), default=dict)
    """As `ear.practice.rules` writes them; what is left out is as usual."""
    ladder = models.JSONField(_("ladder"), default=list)
    """As `ear.practice.ladder` writes it."""
    backing = models.JSONField(_("backing part"), null=True)
    """A part that sounds with it, as `ear.formats.part_json` writes it."""
    variation_of = models.ForeignKey(
        "TargetPart", on_delete=models.PROTECT, null=True, related_name="variations"
    )
    """The part from which this exercise was begun as a variation."""
    tags = models.ManyToManyField(Tag, related_name="exercises", blank=True)
    is_shared = models.BooleanField(_("shared with colleagues"), default=False)
    is_begun = models.BooleanField(default=False)
    """Begun on the Bench and not saved yet: there is none, but for who has begun it."""
    retired_at = models.DateTimeField(null=True)
    """Given no more, and out of the way; what was given goes on."""
    deleted_at = models.DateTimeField(null=True)
    """In no list; to be brought back for a while, and to be read for ever by what was recorded with it."""
    ready_made = models.CharField(max_length=40, blank=True, default="")
    """The library's name of the piece that it was made from (`ear.library`); copies of it have none."""
    meters = models.CharField(max_length=80, blank=True)
    """By which it is found: the meters of its part, in order, as "4/4 3/4"; with `fifths`, `bars`."""
    fifths = models.SmallIntegerField(null=True)
    """The key signature of its part; None where the instrument has no key."""
    bars = models.PositiveIntegerField(default=0)
    task = models.CharField(max_length=10, choices=Task.choices, default=Task.PART)
    """What is to be done, as its part and its rules say; kept to be found by."""

    class Meta:
        ordering = ["title", "id"]
        indexes = [models.Index(fields=["school", "deleted_at", "retired_at", "title"])]

    def __str__(self) -> str:
        return self.title

    @property
    def is_current(self) -> bool:
        """It can be given."""
        return self.retired_at is None and self.deleted_at is None

    @property
    def current_task(self) -> Task:
        """What is to be done, by its part in force and its rules."""
        rules = self.recording_rules
        if rules.has_questions_only:
            return Task.QUESTIONS
        if self.part is not None and self.part.free is not None:
            return Task.FREE
        if rules.is_by_ear:
            return Task.BY_EAR
        return Task.SHOW if rules.to_show else Task.PART

    @property
    def is_assignable(self) -> bool:
        """There is something to play, or to answer."""
        if self.part is None:
            return False
        return bool(
            self.part.free is not None or self.recording_rules.has_questions_only or self.part.read().notes
        )

    @property
    def recording_rules(self) -> RecordingRules:
        """Parsed once for each value of the column: a page of a class asks thousands of times."""
        parsed: tuple[object, RecordingRules] | None = self.__dict__.get("_parsed_rules")
        if parsed is None or parsed[0] is not self.rules:
            parsed = self.__dict__["_parsed_rules"] = (self.rules, RecordingRules.from_json(self.rules))
        return parsed[1]

    @property
    def describe_showing(self) -> list[str]:
        """What is to be shown in a copy, a line each."""
        return [describe_showing(one) for one in self.recording_rules.to_show]

    @property
    def part_in_force(self) -> "TargetPart":
        """Every exercise has one; the column is empty only while it is made."""
        assert self.part is not None
        return self.part

    @property
    def is_free(self) -> bool:
        """Improvised: its part is the page of what it asks for."""
        return self.part is not None and self.part.free is not None

    @property
    def instrument(self) -> Instrument:
        return Kind(self.kind).instrument

    @property
    def practice_ladder(self) -> Ladder:
        return Ladder.from_json(self.ladder)

    @property
    def shown_labels(self) -> frozenset[LabelKind]:
        return frozenset(kind for kind in LabelKind if kind.value in self.labels)

    @property
    def label_choices(self) -> list[tuple[str, Any, bool]]:
        """Each kind that the exercise could show, what it is called, and whether it is shown."""
        return [
            (kind.value, LABEL_NAMES[kind], kind in self.shown_labels)
            for kind in label_kinds(self.instrument)
        ]


class TargetPart(models.Model):
    """One state of an exercise's target part. Never changed once it is stored."""

    exercise = models.ForeignKey(Exercise, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    data = models.JSONField()
    """As `ear.formats.part_json` writes it."""
    free = models.JSONField(null=True)
    """Of a free exercise what is asked for, as `ear.free.exercise.FreeSpec` writes it; its part is the empty page."""
    accepted = models.JSONField(default=dict)
    """What holds in all takes of this part, said by its teacher: for a written note or a bar, by its place, and for a note
    that is played besides, by “tick:pitch” of where it stands, what is said of it and why."""
    source_name = models.CharField(max_length=200, blank=True)
    source_file = models.BinaryField(null=True)
    """The imported file, as it came."""
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["exercise", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["exercise", "number"], name="part_number_in_exercise"),
        ]

    def read(self) -> Part:
        return part_from_json(self.data)

    @property
    def spec(self) -> FreeSpec | None:
        """What a free exercise asks for; None of a part that is written."""
        return FreeSpec.from_json(self.free) if self.free is not None else None


class PartSound(models.Model):
    """A part as sound, made once: what is played by ear is heard and not sent as notes."""

    part = models.OneToOneField(TargetPart, on_delete=models.CASCADE, related_name="sound")
    data = models.BinaryField()


class ImportedFile(SchoolRow):
    """A file that somebody has sent, until it is said what to take of it."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    data = models.BinaryField()
    contents = models.BinaryField(null=True)
    """What was read in it, or why it was refused, packed; None until a job has opened it."""
    created_at = models.DateTimeField(auto_now_add=True)

    def store_contents(self, contents: dict[str, object]) -> None:
        self.contents = zlib.compress(json.dumps(contents).encode())
        self.save(update_fields=["contents"])

    def read_contents(self) -> dict[str, object]:
        """Return the file's contents. Raise the FormatError with which the file was refused."""
        assert self.contents is not None
        return checked(json.loads(zlib.decompress(bytes(self.contents))))
