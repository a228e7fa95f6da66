"""The recording rules as a few sentences. Each choice in them is named: where it stands, it can be opened and changed."""

from collections.abc import Iterator
from string import Formatter
from typing import NamedTuple

from django.contrib.humanize.templatetags.humanize import apnumber
from django.template.defaultfilters import floatformat
from django.utils.text import capfirst
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as lazy
from django.utils.translation import ngettext

from ear.patterns.modes import key_name
from ear.practice.rules import ClickSound, Help, RecordingRules, SoundChoice
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
    "hearing": ("is_by_ear", "hears", "hears_first"),
    "backing": ("backing_from", "backing_file", "backing_level", "backing_while_recording"),
    "help": ("withheld",),
    "passes": ("passes", "least_bars"),
    "takes": ("attempts",),
    "handed-in": ("least_takes", "handed_in_takes", "allows_corrected_copies"),
    "reading": ("shows_reading",),
    "questions": ("questions", "has_questions_only"),
    "showing": ("to_show", "shown_percent"),
}
"""By choice the fields of the rules that it sets."""


class Piece(NamedTuple):
    """Of a sentence; with `choice`, words that can be chosen otherwise."""

    text: str
    choice: str = ""


Sentence = tuple[Piece, ...]

CLICK_SOUNDS = {ClickSound.TICK: lazy("tick"), ClickSound.WOOD: lazy("wood"), ClickSound.BELL: lazy("bell")}
SOUNDS = {
    SoundChoice.PIANO: lazy("piano"), SoundChoice.ELECTRIC_PIANO: lazy("electric piano"),
    SoundChoice.ORGAN: lazy("organ"), SoundChoice.STRINGS: lazy("strings"), SoundChoice.BASS: lazy("bass"),
}  # fmt: skip
HELPS = {Help.TRACE: lazy("what is played"), Help.NEXT: lazy("the next keys"), Help.BEATS: lazy("the beat")}


def rules_said(exercise: Exercise) -> tuple[Sentence, ...]:
    """What is true of every recording of the exercise, in the order in which a player meets it."""
    rules = exercise.recording_rules
    said = {
        "name": exercise.title,
        "level": str(exercise.get_level_display()),
        "instructions": _("the instructions above") if exercise.instructions else _("no instructions"),
        "count-in": _count_in(exercise.count_in_bars),
        "tempo": floatformat(exercise.tempo_bpm, "-2"),
        "range": _range(rules, float(exercise.tempo_bpm)),
        "click": _click(rules),
        "sounds": _listed([str(SOUNDS[s]) for s in rules.sounds], last=_("or")) or _("any sound"),
        "keys": _keys(rules),
        "hearing": _hearing(rules),
        "backing": _backing(exercise, rules),
        "help": _help(rules),
        "passes": _passes(rules),
        "takes": _takes(rules),
        "handed-in": _handed_in(rules),
        "reading": _("what Oido heard") if rules.shows_reading else _("nothing of what Oido heard"),
        "questions": _questions(rules),
        "showing": _showing(exercise, rules),
    }  # fmt: skip
    return tuple(tuple(_pieces(template, said)) for template in _templates(exercise))


def _templates(exercise: Exercise) -> Iterator[str]:
    has_key = exercise.instrument.has_key
    yield _("It is called {name} and judged at the level {level}; students read {instructions}.")
    yield _("{count-in}, then {tempo}, {range}.")
    yield _("{click}, {sounds}, {takes}, {handed-in}.") if has_key else _("{click}, {takes}, {handed-in}.")
    if has_key:
        yield _("It is played in {keys}.")
    if not exercise.is_free:
        yield _("The part {hearing}.")
    yield _("{backing}.")
    yield _("{passes}.")
    yield _("While one plays, {help}; before the mark is released, students see {reading}.")
    yield _("{questions}. {showing}.")


def _pieces(template: str, said: dict[str, str]) -> Iterator[Piece]:
    is_first = True
    for text, name, _spec, _conversion in Formatter().parse(template):
        if text:
            yield Piece(text)
            is_first = text.rstrip().endswith(".")
        if name is not None:
            yield Piece(capfirst(said[name]) if is_first else said[name], name)
            is_first = False


def _listed(words: list[str], *, last: str) -> str:
    """“piano, organ or bass”."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {last} {words[-1]}"


def _count_in(bars: int) -> str:
    if not bars:
        return _("no count-in")
    return ngettext("%(n)s bar of count-in", "%(n)s bars of count-in", bars) % {"n": apnumber(bars)}


def _range(rules: RecordingRules, bpm: float) -> str:
    slowest, fastest = (floatformat(tempo, "-1") for tempo in rules.tempo_range(bpm))
    if rules.slower_percent and rules.faster_percent:
        return _("or between %(slowest)s and %(fastest)s") % {"slowest": slowest, "fastest": fastest}
    if rules.slower_percent:
        return _("or down to %(slowest)s") % {"slowest": slowest}
    if rules.faster_percent:
        return _("or up to %(fastest)s") % {"fastest": fastest}
    return _("no other tempo")


def _click(rules: RecordingRules) -> str:
    if not rules.has_click:
        return _("no click")
    every = {
        1: _("a click on the beats"),
        2: _("a click on halves of beats"),
        3: _("a click on thirds of beats"),
        4: _("a click on quarters of beats"),
    }[rules.click_divides]
    usual = RecordingRules()
    heard = [str(CLICK_SOUNDS[rules.click_sound])] if rules.click_sound is not usual.click_sound else []
    if rules.click_level != usual.click_level:
        heard.append(_("%(n)s %% loud") % {"n": rules.click_level})
    return f"{every} ({', '.join(heard)})" if heard else every


def _keys(rules: RecordingRules) -> str:
    others = [f"{key_name(key)} / {key_name(key, is_minor=True)}" for key in rules.keys]
    return _listed([_("its own key"), *others], last=_("or"))


def _hearing(rules: RecordingRules) -> str:
    if rules.is_by_ear and rules.hears:
        return ngettext(
            "is heard once at most, and not shown until a take is handed in",
            "is heard up to %(n)s times, and not shown until a take is handed in",
            rules.hears,
        ) % {"n": apnumber(rules.hears)}
    if rules.is_by_ear:
        return _("is heard, and not shown until a take is handed in")
    if rules.hears_first:
        return _("is on the page, and must be heard once before recording")
    return _("is on the page, and may be heard")


def _backing(exercise: Exercise, rules: RecordingRules) -> str:
    if not exercise.backing:
        return _("no backing")
    loud = {"n": rules.backing_level}
    if rules.backing_while_recording:
        return _("a backing part at %(n)s %%, heard while recording, too") % loud
    return _("a backing part at %(n)s %%, heard in practice alone") % loud


def _help(rules: RecordingRules) -> str:
    hidden = _listed([str(HELPS[one]) for one in Help if one in rules.withheld], last=_("and"))
    return (
        _("the page does not show %(what)s") % {"what": hidden} if hidden else _("all playing aids are shown")
    )


def _passes(rules: RecordingRules) -> str:
    passes = ngettext(
        "recorded in one pass", "recorded in up to %(n)s passes over each other", rules.passes
    ) % {"n": apnumber(rules.passes)}
    if not rules.least_bars:
        return _("%(passes)s; every recording counts as a take") % {"passes": passes}
    return _("%(passes)s; stopped before the end of bar %(bar)s it is no take") % {
        "passes": passes, "bar": rules.least_bars,
    }  # fmt: skip


def _takes(rules: RecordingRules) -> str:
    if rules.attempts is None:
        return _("any number of takes")
    return ngettext("one take", "up to %(n)s takes", rules.attempts) % {"n": apnumber(rules.attempts)}


def _handed_in(rules: RecordingRules) -> str:
    n = {"n": apnumber(rules.handed_in_takes), "least": apnumber(rules.least_takes)}
    if rules.least_takes == 1:
        said = _("one handed in")
    else:
        said = ngettext(
            "one of at least %(least)s handed in",
            "%(n)s of at least %(least)s handed in together",
            rules.handed_in_takes,
        ) % n  # fmt: skip
    return (
        _("%(said)s, with a corrected copy if wanted") % {"said": said}
        if rules.allows_corrected_copies
        else said
    )


def _questions(rules: RecordingRules) -> str:
    if not rules.questions:
        return _("no questions at hand-in")
    if rules.has_questions_only:
        return ngettext(
            "one question is answered, and nothing is recorded",
            "%(n)s questions are answered, and nothing is recorded",
            len(rules.questions),
        ) % {"n": apnumber(len(rules.questions))}
    return ngettext("one question at hand-in", "%(n)s questions at hand-in", len(rules.questions)) % {
        "n": apnumber(len(rules.questions))
    }


def _showing(exercise: Exercise, rules: RecordingRules) -> str:
    if not rules.to_show:
        return _("nothing to be shown in a copy")
    return _("to be shown in a copy, for %(share)s %% of the mark: %(what)s") % {
        "share": rules.shown_percent, "what": "; ".join(exercise.to_show_said),
    }  # fmt: skip
