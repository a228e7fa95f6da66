"""What django-tasks' workers do with takes."""

from django_tasks import task

from oido.takes.models import Take
from oido.takes.services import measure_claimed

BEFORE_BATCHES = 50
"""Its student looks at the page and waits."""


@task(priority=BEFORE_BATCHES)
def measure_beside(key: str) -> None:
    """Measure a take that was stored, unless somebody has done so meanwhile."""
    take = Take.everywhere.select_related("school").only("pk", "school").filter(pk=key).first()
    if take is not None:
        with take.school.within():
            measure_claimed(take)
