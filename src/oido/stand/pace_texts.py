"""What is counted of bars that were played at one's own pace."""

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from ear.recording.own_pace import PaceWalk
from ear.words.phrases import describe_bars
from oido.common.readers import PAGES

MAX_NAMED = 3
"""Bars that are named, the worst first."""


def describe_pace(result: PaceWalk) -> str:
    """Return how it went in sentences: how far, how many wrong keys, and where."""
    if result.is_clean:
        return _("All the way through without a wrong key.")
    bars = sorted(result.wrong_by_bar.items(), key=lambda each: (-each[1], each[0]))[:MAX_NAMED]
    places = ", ".join(_("bar %(bar)s: %(n)s") % {"bar": bar, "n": count} for bar, count in bars)
    sentences = []
    if not result.is_complete:
        sentences.append(_("You stopped in bar %(bar)s.") % {"bar": result.steps[result.done].bar})
    if result.wrong_keys:
        counted = ngettext(
            "%(n)s wrong key (%(places)s).", "%(n)s wrong keys (%(places)s).", result.wrong_keys
        )
        sentences.append(counted % {"n": result.wrong_keys, "places": places})
    else:
        sentences.append(_("No wrong key so far."))
    if result.suggested_bars:
        sentences.append(_("Practise %(bars)s next.") % {"bars": describe_bars(result.suggested_bars, PAGES)})
    return " ".join(sentences)
