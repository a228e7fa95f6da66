"""Django's own commands, for those who develop Oido. `./oido` is the way in for all else."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "oido.config.settings")
    execute_from_command_line(sys.argv)
