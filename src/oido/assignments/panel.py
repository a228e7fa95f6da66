"""On an exercise's page: who it was given to."""

from typing import Any

from oido.assignments.queries import assignments_of_exercise
from oido.exercises.models import Exercise


def assignments_panel(request: Any, exercise: Exercise) -> dict[str, object]:
    return {"assignments": assignments_of_exercise(request.user, exercise)}
