"""Gather what is to be translated, the core's names included."""

from django.core.management.commands import makemessages


class Command(makemessages.Command):
    """Django's command, which also reads `ear.text.term`."""

    xgettext_options = [*makemessages.Command.xgettext_options, "--keyword=term"]
