"""Working copies of target parts, with all that was done to them."""

from django.db import models

from oido.exercises.history import History, HistoryState
from oido.exercises.models import Exercise

STEPS_KEPT = 200
"""Steps of the Bench that can be undone, however long ago they were done."""


class Draft(History):
    """The working copy of an exercise's part. What is kept becomes a target part."""

    steps_kept = STEPS_KEPT

    exercise = models.OneToOneField(Exercise, on_delete=models.CASCADE, related_name="draft")
    kept_position = models.PositiveIntegerField(null=True, default=0)
    """The state that is the exercise's part; None once it can no longer be reached."""


class DraftState(HistoryState):
    """One state of a draft."""

    history = models.ForeignKey(Draft, on_delete=models.CASCADE, related_name="states")

    class Meta(HistoryState.Meta):
        constraints = [
            models.UniqueConstraint(fields=["history", "number"], name="state_number_in_draft"),
        ]
