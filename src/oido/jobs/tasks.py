"""What django-tasks' workers are told to do."""

from django_tasks import task

from oido.jobs import services


@task()
def do_job(pk: str) -> None:
    services.do(pk)
