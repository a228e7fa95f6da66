"""Marks, what teachers changed in them, remarks, and what is said back."""

from django.db import models
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.people.models import SchoolRow, User
from oido.rubrics.models import RubricVersion
from oido.takes.models import Judgement, Take


class MarkSheet(models.Model):
    """The mark of one take: what the teacher says over the take's judgement, and the sum kept for lists."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="sheet")
    changes = models.JSONField(default=dict)
    """What the teacher says, by criterion, as `ear.judging.judgement.Given` writes it."""
    help_step = models.PositiveSmallIntegerField(null=True)
    """How much help was given, by its number in the rubric."""
    total = models.FloatField()
    """Of 100, after the changes; kept for lists."""
    points = models.FloatField(default=0.0)
    """The mark as it is written, out of `out_of`."""
    out_of = models.PositiveSmallIntegerField(default=100)
    band = models.CharField(max_length=80)
    is_whole = models.BooleanField(default=True)
    """False while something is still to be marked by hand: the mark is one "so far"."""
    heard = models.JSONField(null=True)
    """The ear note that costs most, as `oido.marking.sheets` writes it; kept for lists."""
    accepted_at = models.DateTimeField(null=True)
    """The teacher is content with the mark; the student sees it once it is released."""
    released_at = models.DateTimeField(null=True)
    released_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    seen_at = models.DateTimeField(null=True)
    """When the student first opened the report after that."""
    asked_again_at = models.DateTimeField(null=True)
    """The teacher has asked for another take instead of a mark."""
    asked_again_why = models.CharField(max_length=400, blank=True)
    late_days = models.PositiveSmallIntegerField(default=0)
    """Days begun after the student's due date when the take was handed in, by the due date as it is now."""
    late_days_charged = models.PositiveSmallIntegerField(default=0)
    """Late days that the mark lost points for when it was last concluded. A released mark keeps them until a teacher
    has it concluded again."""

    line: "SheetChange | None" = None
    """What the latest act on this object left in the history; not stored."""

    @property
    def is_released(self) -> bool:
        return self.released_at is not None

    @property
    def is_settled(self) -> bool:
        """A teacher has released it: nothing else can be handed in. Marks that are seen at once do not settle."""
        return self.released_by_id is not None


class SheetChange(models.Model):
    """What a teacher did with a mark, and what stood there before: its history, and how it is undone."""

    class Kind(models.TextChoices):
        SCORE = "score", _("changed")
        HELP = "help", _("help noted")
        SETTINGS = "settings", _("marked with its own settings")
        MEASURED = "measured", _("a bar measured again")
        ACCEPTED = "accepted", pgettext_lazy("choice", "accepted")
        RELEASED = "released", pgettext_lazy("choice", "released")
        ASKED_AGAIN = "asked", _("another take asked for")
        RUBRIC = "rubric", _("marked by another rubric")
        OVERRIDES = "saying", _("changes to notes or bars")
        UNDONE = "undone", _("undid")

    sheet = models.ForeignKey(MarkSheet, on_delete=models.CASCADE, related_name="history")
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=10, choices=Kind.choices)
    criterion = models.CharField(max_length=80, blank=True)
    why = models.CharField(max_length=400, blank=True)
    before = models.JSONField()
    after = models.JSONField()
    """As `oido.marking.history` writes what of a sheet can be changed."""
    points_before = models.FloatField()
    points_after = models.FloatField()
    is_undone = models.BooleanField(default=False)
    undoes = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    """The change that this one put back."""

    class Meta:
        ordering = ["-id"]

    @property
    def can_be_undone(self) -> bool:
        return not self.is_undone and self.kind not in (self.Kind.RUBRIC, self.Kind.UNDONE)


class Remark(models.Model):
    """What a teacher writes about a take: pinned to a bar and beat, or to the whole take."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="remarks")
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="remarks")
    bar = models.PositiveIntegerField(pgettext_lazy("label", "bar"), null=True, blank=True)
    beat = models.PositiveIntegerField(_("beat"), null=True, blank=True)
    text = models.TextField(_("remark"), max_length=2000)
    written_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["bar", "beat", "id"]


class Phrase(SchoolRow):
    """A phrase that a teacher keeps for remarks, with fields such as {name} that are filled when it is used."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="phrases")
    text = models.CharField(_("phrase"), max_length=400)

    class Meta:
        ordering = ["text", "id"]


class Reply(models.Model):
    """An answer or a question about a take's mark, of its student or of a teacher."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="replies")
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    text = models.TextField(_("what you want to say"), max_length=2000)
    written_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(null=True)
    """When the other side first saw it."""

    class Meta:
        ordering = ["id"]


class Remarking(models.Model):
    """All takes of an assignment marked again by another rubric: first tried, to be looked at, then kept."""

    class State(models.TextChoices):
        TRYING = "trying", _("trial running")
        TRIED = "tried", _("tried")
        KEEPING = "keeping", _("saving")
        KEPT = "kept", _("saved")
        DROPPED = "dropped", _("discarded")
        FAILED = "failed", pgettext_lazy("choice", "failed")

    assignment = models.ForeignKey(
        "assignments.Assignment", on_delete=models.CASCADE, related_name="remarkings"
    )
    rubric = models.ForeignKey(RubricVersion, on_delete=models.PROTECT, null=True, related_name="+")
    begun_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    with_released = models.BooleanField(default=False)
    """Marks that students have seen already are made again, too."""
    state = models.CharField(max_length=10, choices=State.choices, default=State.TRYING)
    done = models.PositiveIntegerField(default=0)
    takes = models.PositiveIntegerField(default=0)
    rows = models.JSONField(default=list)
    """What was tried: [take, points before, band before, points after, band after, changes]."""
    begun_at = models.DateTimeField(auto_now_add=True)
    worked_at = models.DateTimeField(auto_now=True)
    """A job that nobody works on any more is taken up by another worker."""

    class Meta:
        ordering = ["-id"]


class Trial(models.Model):
    """A take's judgement by a rubric that is tried: kept, the take points at it; dropped, both are gone."""

    remarking = models.ForeignKey(Remarking, on_delete=models.CASCADE, related_name="trials")
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="trials")
    judgement = models.ForeignKey(Judgement, on_delete=models.CASCADE, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["remarking", "take"], name="one_trial_of_take")]


class Remeasuring(models.Model):
    """Stored takes measured again by a new version of the code, some at a time."""

    version = models.CharField(max_length=20, unique=True)
    done = models.PositiveIntegerField(default=0)
    takes = models.PositiveIntegerField(default=0)
    failed = models.JSONField(default=list)
    """Takes that could not be measured, by their ids."""
    begun_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    @property
    def share(self) -> int:
        """Per cent done."""
        return round(100 * self.done / self.takes) if self.takes else 100
