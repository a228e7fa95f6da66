from typing import Any

from django.core.management.base import BaseCommand

from oido.opening.services import new_setup_code


class Command(BaseCommand):
    help = (
        "Print a new code with which the first school can be set up, once; nothing where there is a school."
    )

    def handle(self, *args: Any, **options: Any) -> None:
        code = new_setup_code()
        if code is not None:
            self.stdout.write(code)
