"""What is to be shown in a copy and explained, in words."""

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from ear.practice.showing import InWords, Shown, Skill, ToShow

SKILL_NAMES = {
    Skill.QUANTISED: _("quantised"),
    Skill.WRONG_NOTE: _("a wrong note put right"),
    Skill.EXTRA_NOTE: _("an extra note deleted"),
    Skill.LENGTHS: _("lengths changed"),
    Skill.LOUDNESS: _("loudness changed"),
    Skill.REPEATED: _("a bar repeated"),
}
IN_WORDS = {
    InWords.NONE: _("shown"),
    InWords.OWN: _("shown and explained, own words"),
    InWords.LESSON: _("shown and explained, these words:"),
}


def words_of(asked: ToShow) -> str:
    """Return the instruction for the explanation, or an empty string if none is wanted."""
    match asked.in_words:
        case InWords.NONE:
            return ""
        case InWords.OWN:
            return gettext("explain it in your own words")
        case InWords.LESSON:
            return gettext("explain it with the words: %(terms)s") % {"terms": asked.terms}


def describe_showing(asked: ToShow) -> str:
    """Return what is to be shown in words, such as “quantised; explain it in your own words”."""
    return "; ".join(str(part) for part in (SKILL_NAMES[asked.skill], words_of(asked)) if part)


def skill_name(shown: Shown) -> str:
    return str(SKILL_NAMES[shown.asked.skill])


def shown_labels() -> tuple[str, str]:
    """Return the labels of the two criteria that it adds to a mark."""
    return gettext("Shown"), gettext("Explained")
