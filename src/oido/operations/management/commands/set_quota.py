"""Set how much one school may keep."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from oido.people.models import School
from oido.people.quotas import people_quota, takes_quota
from oido.people.scope import Scope, within


class Command(BaseCommand):
    help = "Sets how many members and takes a school may have, and prints what it uses. 0 stands for the installation's own quota."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("school", help="its name")
        parser.add_argument("--people", type=int)
        parser.add_argument("--takes", type=int)

    def handle(self, *args: Any, school: str, people: int | None, takes: int | None, **options: Any) -> None:
        rows = School.objects.filter(name=school)
        if len(rows) != 1:
            names = ", ".join(School.objects.values_list("name", flat=True))
            raise CommandError(f"{len(rows)} schools are called {school!r}. Schools: {names}")
        [row] = rows
        for field, value in (("max_people", people), ("max_takes", takes)):
            if value is not None:
                if value < 0:
                    raise CommandError("A quota is 0 or more.")
                setattr(row, field, value or None)
        row.save(update_fields=["max_people", "max_takes"])
        with within(Scope.EVERYWHERE):
            for name, quota in (("members", people_quota(row)), ("takes", takes_quota(row))):
                self.stdout.write(f"{name}: {quota.used} of {quota.limit or 'any number'}")
