"""The doctor: how everything is, and what to do about what is not well."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from oido.operations.state import conditions, deeper_conditions


class Command(BaseCommand):
    help = "Says what is wrong with this installation, and what to do."

    def handle(self, *args: Any, **options: Any) -> None:
        seen = conditions(with_mail=True)
        if seen[0].is_well:
            seen += deeper_conditions()
        for condition in seen:
            self.stdout.write(
                f"{'well' if condition.is_well else 'NOT WELL':8} {condition.name}: {condition.words}"
            )
        ill = sum(not condition.is_well for condition in seen)
        if ill:
            raise CommandError(f"{ill} of {len(seen)} things are not well")
