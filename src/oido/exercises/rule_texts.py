"""The recording rules as a list: what each is about, and how it is set. Each can be opened and changed in its place."""

from typing import NamedTuple

from django.contrib.humanize.templatetags.humanize import apnumber
from django.template.defaultfilters import floatformat
from django.utils.text import capfirst
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext, pgettext, pgettext_lazy

from ear.practice.rules import ClickSound, PlayingAid, RecordingRules, SoundChoice
from ear.words.keys import describe_keys
from oido.common.readers import usual_reader
from oido.exercises.models import Exercise

CHOICES: dict[str, tuple[str, ...]] = {
    "name": ("title",),
    "level": ("level",),
    "instructions": ("instructions",),
    "count-in": ("count_in_bars",),
    "tempo": ("tempo_bpm",),
    "range": ("slower_percent", "faster_percent"),
    "click": ("has_click", "click_sound", "click_level", "click_divides"),
    "sounds": ("sounds",),
    "keys": ("keys",),
    "hearing": ("is_by_ear", "listen_limit", "must_listen_first"),
    "backing": ("backing_from", "backing_file", "backing_level", "backing_while_recording"),
    "help": ("withheld",),
    "passes": ("passes", "least_bars"),
    "takes": ("attempts",),
    "handed-in": ("least_takes", "handed_in_takes", "allows_corrected_copies"),
    "reading": ("shows_analysis",),
    "questions": ("questions", "has_questions_only"),
    "showing": ("to_show", "shown_percent"),
}
"""By choice the fields of the rules that it sets."""


class Rule(NamedTuple):
    """One rule: the choice that sets it, its label, and what is set."""

    choice: str
    label: str
    value: str


CLICK_SOUNDS = {
    ClickSound.TICK: gettext_lazy("tick"),
    ClickSound.WOOD: gettext_lazy("wood"),
    ClickSound.BELL: gettext_lazy("bell"),
}
SOUNDS = {
    SoundChoice.PIANO: pgettext_lazy("label", "piano"), SoundChoice.ELECTRIC_PIANO: gettext_lazy("electric piano"),
    SoundChoice.ORGAN: pgettext_lazy("label", "organ"), SoundChoice.STRINGS: pgettext_lazy("label", "strings"), SoundChoice.BASS: pgettext_lazy("label", "bass"),
}  # fmt: skip
HELPS = {
    PlayingAid.TRACE: gettext_lazy("what is played"),
    PlayingAid.NEXT: gettext_lazy("the next keys"),
    PlayingAid.BEATS: gettext_lazy("the beat"),
}


def describe_rules(exercise: Exercise) -> tuple[Rule, ...]:
    """Return what is true of every recording of the exercise, in the order in which a player meets it."""
    rules = exercise.recording_rules
    has_key = exercise.instrument.has_key
    rows = (
        Rule("name", pgettext("label", "Title"), exercise.title),
        Rule("level", _("Strictness"), str(exercise.get_level_display())),
        Rule("instructions", _("Instructions"), _("As above") if exercise.instructions else _("None")),
        Rule("count-in", _("Count-in"), _count_in(exercise.count_in_bars)),
        Rule("tempo", pgettext("label", "Tempo"), f"♩ = {floatformat(exercise.tempo_bpm, '-2')}"),
        Rule("range", _("Other tempos"), _range(rules, float(exercise.tempo_bpm))),
        Rule("click", _("Click"), _click(rules)),
        Rule("sounds", _("Sounds"), ", ".join(str(SOUNDS[each]) for each in rules.sounds) or _("Any")),
        Rule("keys", pgettext("label", "Keys"), _keys(rules)),
        Rule("hearing", _("Part"), _hearing(rules)),
        Rule("backing", _("Backing"), _backing(exercise, rules)),
        Rule("passes", pgettext("label", "Recording"), _passes(rules)),
        Rule("takes", pgettext("label", "Takes"), _takes(rules)),
        Rule("handed-in", _("Handing in"), _handed_in(rules)),
        Rule("help", _("While playing"), _help(rules)),
        Rule("reading", _("Before release"), _analysis(rules)),
        Rule("questions", _("Questions"), _questions(rules)),
        Rule("showing", _("Shown in a copy"), _showing(exercise, rules)),
    )
    left_out = {
        *(() if has_key else ("sounds", "keys")),
        *(("hearing",) if exercise.is_free else ()),
    }
    return tuple(row for row in rows if row.choice not in left_out)


def _count_in(bars: int) -> str:
    if not bars:
        return _("None")
    return ngettext("%(n)s bar", "%(n)s bars", bars) % {"n": capfirst(str(apnumber(bars)))}


def _range(rules: RecordingRules, bpm: float) -> str:
    slowest, fastest = (floatformat(tempo, "-1") for tempo in rules.tempo_range(bpm))
    if rules.slower_percent and rules.faster_percent:
        return _("From %(slowest)s to %(fastest)s") % {"slowest": slowest, "fastest": fastest}
    if rules.slower_percent:
        return _("Down to %(slowest)s") % {"slowest": slowest}
    if rules.faster_percent:
        return _("Up to %(fastest)s") % {"fastest": fastest}
    return _("None")


def _click(rules: RecordingRules) -> str:
    if not rules.has_click:
        return _("None")
    text = {
        1: _("On the beats: %(sound)s, %(level)s%% volume"),
        2: _("On half beats: %(sound)s, %(level)s%% volume"),
        3: _("On thirds of a beat: %(sound)s, %(level)s%% volume"),
        4: _("On quarter beats: %(sound)s, %(level)s%% volume"),
    }[rules.click_divides]
    return text % {"sound": CLICK_SOUNDS[rules.click_sound], "level": rules.click_level}


def _keys(rules: RecordingRules) -> str:
    others = [describe_keys(key, usual_reader()) for key in rules.keys]
    if not others:
        return _("Its own key only")
    return _("Its own key, or: %(keys)s") % {"keys": ", ".join(others)}


def _hearing(rules: RecordingRules) -> str:
    if rules.is_by_ear and rules.listen_limit:
        return ngettext(
            "Hidden until a take is handed in; can be heard once",
            "Hidden until a take is handed in; can be heard up to %(n)s times",
            rules.listen_limit,
        ) % {"n": apnumber(rules.listen_limit)}
    if rules.is_by_ear:
        return _("Hidden until a take is handed in; can be heard any number of times")
    if rules.must_listen_first:
        return _("On the page; must be heard once before recording")
    return _("On the page; can be heard")


def _backing(exercise: Exercise, rules: RecordingRules) -> str:
    if not exercise.backing:
        return _("None")
    level = {"level": rules.backing_level}
    if rules.backing_while_recording:
        return _("At %(level)s%% volume, in practice and while recording") % level
    return _("At %(level)s%% volume, in practice only") % level


def _help(rules: RecordingRules) -> str:
    hidden = [str(HELPS[each]) for each in PlayingAid if each in rules.withheld]
    if not hidden:
        return _("All playing aids are shown")
    return _("Hidden: %(aids)s") % {"aids": ", ".join(hidden)}


def _analysis(rules: RecordingRules) -> str:
    if rules.shows_analysis:
        return _("Students see what Oido heard")
    return _("Students do not see what Oido heard")


def _passes(rules: RecordingRules) -> str:
    passes = ngettext("One pass.", "Up to %(n)s passes, recorded over each other.", rules.passes) % {
        "n": apnumber(rules.passes)
    }
    counted = _("Every recording counts as a take.")
    if rules.least_bars:
        counted = _(
            "A recording stopped before the end of bar %(bar)s is a false start and does not count."
        ) % {"bar": rules.least_bars}
    return f"{passes} {counted}"


def _takes(rules: RecordingRules) -> str:
    if rules.attempts is None:
        return _("Any number")
    return ngettext("One", "Up to %(n)s", rules.attempts) % {"n": apnumber(rules.attempts)}


def _handed_in(rules: RecordingRules) -> str:
    values = {"n": apnumber(rules.handed_in_takes), "least": apnumber(rules.least_takes)}
    if rules.least_takes == 1:
        counted = _("One take.")
    else:
        counted = ngettext(
            "One of at least %(least)s takes.",
            "At least %(least)s takes recorded, %(n)s of them handed in together.",
            rules.handed_in_takes,
        ) % values  # fmt: skip
    copies = _("A corrected copy may be handed in instead.")
    return f"{counted} {copies}" if rules.allows_corrected_copies else counted


def _questions(rules: RecordingRules) -> str:
    count = len(rules.questions)
    if not count:
        return _("None")
    if rules.has_questions_only:
        return ngettext("One, and nothing is recorded", "%(n)s, and nothing is recorded", count) % {
            "n": capfirst(str(apnumber(count)))
        }
    return ngettext("One, when handing in", "%(n)s, when handing in", count) % {
        "n": capfirst(str(apnumber(count)))
    }


def _showing(exercise: Exercise, rules: RecordingRules) -> str:
    if not rules.to_show:
        return _("Nothing")
    return _("For %(share)s%% of the mark: %(what)s") % {
        "share": rules.shown_percent, "what": "; ".join(exercise.describe_showing),
    }  # fmt: skip
