from django.core.management.base import BaseCommand, CommandParser

from oido.demo.loading import load_demo
from oido.people.models import School


class Command(BaseCommand):
    help = "Load the demo school, once: nothing is done where there is a school already."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--progress", action="store_true", help="say how much is done")

    def handle(self, *args: object, **options: object) -> None:
        if School.objects.exists():
            self.stdout.write("There is a school already; nothing loaded.")
            return
        if options["progress"]:
            load_demo(lambda done, total: self.stdout.write(f"{done} of {total}"))
        else:
            load_demo()
