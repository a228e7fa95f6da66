"""While a new version is put in place, the version before keeps serving on the new tables."""

from django.db import connection, migrations
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.operations.base import Operation
from django.db.models import NOT_PROVIDED
from django.test import TestCase

BEFORE = {
    "access": "0002_second_release", "assignments": "0002_second_release", "audit": "0002_second_release",
    "bench": "0002_second_release", "booklets": "0002_second_release", "exercises": "0003_ready_made",
    "gradebook": "0002_second_release", "jobs": "0002_second_release", "leaving": "0002_second_release",
    "marking": "0003_heard_in_one_shape", "opening": "0002_second_release", "people": "0001_second_release",
    "post": "0001_second_release", "roster": "0001_second_release", "rubrics": "0001_second_release",
    "takes": "0003_practice_days",
}  # fmt: skip
"""Up to these migrations everything is stopped for an update. Later ones may only add."""
SAME_RULE_IN_ANOTHER_ORDER = {"take_number_by_student"}
"""Constraints that take the place of others which said the same."""
OTHER_DEFAULT = {("exercise", "is_shared")}
"""Fields whose default, which tables know nothing of, is another one."""


def leaves_old_code_running(operation: Operation) -> bool:
    """Return whether code that does not know of this change still reads and writes its tables."""
    if isinstance(operation, migrations.AddField):
        return operation.field.null or operation.field.db_default is not NOT_PROVIDED
    if isinstance(operation, migrations.AlterField):
        return (operation.model_name, operation.name) in OTHER_DEFAULT
    if isinstance(operation, migrations.AddConstraint):
        return operation.constraint.name in SAME_RULE_IN_ANOTHER_ORDER
    return isinstance(operation, (migrations.CreateModel, migrations.AddIndex, migrations.RemoveConstraint))


class MigrationsTest(TestCase):
    def test_later_migrations_only_add(self) -> None:
        graph = MigrationExecutor(connection).loader.graph
        old = {key for node in BEFORE.items() for key in graph.forwards_plan(node)}
        later = [
            node
            for key, node in graph.nodes.items()
            if key not in old and node.__module__.startswith("oido.")
        ]
        self.assertTrue(later)
        for migration in later:
            for operation in migration.operations:
                with self.subTest(f"{migration.app_label}.{migration.name}: {operation.describe()}"):
                    self.assertTrue(leaves_old_code_running(operation))

    def test_the_models_of_the_version_before_still_store_their_rows(self) -> None:
        old = MigrationExecutor(connection).loader.project_state([*BEFORE.items()]).apps
        school = old.get_model("people", "School").objects.create(name="Stored by the version before")
        person = old.get_model("people", "User").objects.create(username="before")
        old.get_model("people", "Membership").objects.create(school=school, person=person, role="head")
        self.assertEqual(old.get_model("people", "School").objects.get().name, school.name)
