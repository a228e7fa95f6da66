"""Gather what is to be translated, the core's names included."""

from django.core.management.commands import makemessages


class Command(makemessages.Command):
    """Django's command, which also reads `ear.text.term`."""

    xgettext_options = [*makemessages.Command.xgettext_options, "--keyword=term"]
    msgmerge_options = [*makemessages.Command.msgmerge_options, "--no-fuzzy-matching"]
    """A new text that resembles an old one is still to be translated."""
