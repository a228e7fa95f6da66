"""How long a list of people takes to be looked at, imported and undone: `./oido bench lists`."""

import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext

from oido.people.models import Role, School
from oido.people.scope import Scope, within
from oido.people.services import new_member
from oido.roster.importing import import_list, store_list, undo_import
from oido.roster.list_files import read_list
from oido.roster.models import ListImport
from oido.roster.planning import plan_import

SIZES = (50, 500, 5000)
CLASS_SIZE = 25


class Command(BaseCommand):
    help = "Times lists of 50, 500 and 5,000 people in classes of 25."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(f"{'':28}" + "".join(f"{size:>9,}" for size in SIZES))
        rows: dict[str, list[float]] = {}
        for size in SIZES:
            with transaction.atomic(), within(Scope.EVERYWHERE):
                for name, figure in self.figures(size).items():
                    rows.setdefault(name, []).append(figure)
                transaction.set_rollback(True)
        for name, row in rows.items():
            self.stdout.write(f"{name:28}" + "".join(f"{figure:9,.2f}" for figure in row))

    def figures(self, size: int) -> dict[str, float]:
        head = new_member(School.objects.create(name="Bench"), Role.HEAD, username="bench-head")
        lines = "".join(
            f"First{k};Last{k % 97};Class {k // CLASS_SIZE};p{k}@s.example\n" for k in range(size)
        )
        data = f"First name;Last name;Class;E-mail\n{lines}".encode("utf-16")
        seconds: dict[str, float] = {}

        def timed(name: str, work: Any) -> Any:
            start = time.perf_counter()
            result = work()
            seconds[f"{name}, s"] = time.perf_counter() - start
            return result

        listed = timed("read", lambda: read_list(data))
        stored = store_list(head, listed, file_name="", school_class=None)
        timed("looked at", lambda: plan_import(head, stored))
        with CaptureQueriesContext(connection) as queries:
            timed("imported", lambda: import_list(head, stored, {}))
        seconds["queries of the import"] = float(len(queries))
        timed("looked at once more", lambda: plan_import(head, stored))
        timed("undone", lambda: undo_import(head, ListImport.objects.get(pk=stored.pk)))
        return seconds
