"""An ear note in a sentence, for a teacher or a student, in the reader's conventions."""

from typing import Any

from ear.findings.finding import Finding, Practice
from ear.findings.kind import PlayedOn, Tone
from ear.findings.table import kind_of
from ear.text import gettext_noop, ngettext_lazy
from ear.words.places import BAR_AND_PLACE, describe_interval, describe_place
from ear.words.reader import Reader, decimal, describe_bars, half_up, signed

FOR_TEACHER, FOR_STUDENT = "teacher", "student"
HIGHER, LOWER = gettext_noop("higher"), gettext_noop("lower")
HIGH, LOW = gettext_noop("high"), gettext_noop("low")
KEY_UP = gettext_noop("{played} for {written}, {interval} up")
KEY_DOWN = gettext_noop("{played} for {written}, {interval} down")
DRUM_FOR = gettext_noop("{played} for {written}")
A_GUESS = gettext_noop(" A guess: bars are alike there, and it may have been another.")
GIVE_OR_TAKE = gettext_noop(" ± {error}")
ENDINGS = {
    "unplugged": gettext_noop("the instrument was unplugged"), "closed": gettext_noop("the page was closed"),
    "stalled": gettext_noop("the computer’s sound stopped"),
}  # fmt: skip
ORNAMENTS = {
    "flam": ngettext_lazy("a flam", "{count} flams"),
    "drag": ngettext_lazy("a drag", "{count} drags"),
    "roll": ngettext_lazy("a roll", "{count} rolls"),
    "trill": ngettext_lazy("a trill", "{count} trills"),
    "mordent": ngettext_lazy("a mordent", "{count} mordents"),
    "upper_mordent": ngettext_lazy("an upper mordent", "{count} upper mordents"),
    "turn": ngettext_lazy("a turn", "{count} turns"),
    "grace": ngettext_lazy("a grace note", "{count} grace notes"),
}
HANDS = {"left": gettext_noop("left"), "right": gettext_noop("right")}
LONGEST = 4
"""Bars of a rung: more than these are practised from their start."""


def render_finding(finding: Finding, to: str, reader: Reader, *, played_on: PlayedOn = PlayedOn.KEYS) -> str:
    """Return an ear note as a sentence for `to`, which is FOR_TEACHER or FOR_STUDENT.

    `played_on` chooses the advice to a student: what helps on a keyboard helps nobody on typing keys.
    """
    if to in finding.values:
        # An ear note of the first release holds its sentences.
        return str(finding.values[to])
    kind = kind_of(finding.code)
    if kind.of_lane is not None and "lane" in finding.values:
        text = kind.of_lane[0 if to == FOR_TEACHER else 1]
    elif to == FOR_TEACHER:
        text = kind.teacher
    else:
        text = kind.student_on.get(played_on, kind.student)
    return reader.say(text, placeholder_values(finding, reader))


def placeholder_values(finding: Finding, reader: Reader) -> dict[str, Any]:
    """Return the values that fill the gaps of a finding's sentences, in the reader's words."""
    v: dict[str, Any] = dict(finding.values)
    if "count" in v:
        # Of what was measured before, all were counted.
        v.setdefault("of", v["count"])
    if finding.bars:
        v["first"], v["last"] = finding.bars
        v["bars"] = describe_bars(finding.bars, reader)
    if "beat" in v:
        place = describe_place(
            int(v["beat"]), int(v["into"]), beat_ticks=int(v["beat_ticks"]), is_compound=bool(v["compound"]),
            reader=reader,
        )  # fmt: skip
        if "bar" in v:
            v["where"] = reader.say(BAR_AND_PLACE, {"bar": v["bar"], "place": place})
        v["place"] = place
    if "ornament" in v:
        v["ornaments"] = reader.say(ORNAMENTS[str(v["ornament"])], {"count": int(v["count"])})
    if "beats" in v:
        v["number"], v["beats"] = float(v["beats"]), decimal(float(v["beats"]), 1 if v["beats"] < 10 else 0)
    if "interval" in v:
        v["way"] = reader.say(HIGHER if v["interval"] > 0 else LOWER, {})
        v["way_short"] = reader.say(HIGH if v["interval"] > 0 else LOW, {})
        v["interval"] = describe_interval(v["interval"], reader)
    if "fifths" in v and "written" not in v:
        v["what"] = reader.conventions.pitch(int(v["played"]), fifths=int(v["fifths"]))
    elif "fifths" in v:
        v["what"] = _wrong_key(v, reader)
    elif "written_lane" in v:
        names = {"played": v["played_lane"], "written": v["written_lane"]}
        v["what"] = reader.say(DRUM_FOR, {k: reader.gettext(str(name)) for k, name in names.items()})
    elif "played_lane" in v:
        v["what"] = reader.gettext(str(v["played_lane"]))
    for name in ("tempo_first", "tempo_last"):
        if name in v:
            v[name] = half_up(float(v[name]))
    if "ending" in v:
        v["why"] = reader.say(ENDINGS[str(v["ending"])], {})
    v["guess"] = reader.say(A_GUESS, {}) if v.get("guess") else ""
    v["give"] = (
        reader.say(GIVE_OR_TAKE, {"error": max(1, half_up(float(v["error"])))}) if "error" in v else ""
    )
    for name in ("size", "most", "rate"):
        if name in v:
            v[name] = half_up(abs(float(v[name])))
    if "click" in v:
        v["bpm"], v["click"] = decimal(float(v["bpm"]), 1), decimal(float(v["click"]), 2)
    for name in ("played_ratio", "written_ratio"):
        if name in v:
            v[name.removesuffix("_ratio")] = f"{v[name]:.1f}"
    for name in ("played_slope", "written_slope"):
        if name in v:
            v[name.removesuffix("_slope")] = signed(float(v[name]), 1)
    for name in ("played_steps", "written_steps"):
        if name in v:
            v[name.removesuffix("_steps")] = signed(float(v[name]))
    for name in ("late", "other", "hand"):
        if name in v:
            v[name] = reader.say(HANDS[str(v[name])], {})
    if "lane" in v:
        v["lane"] = reader.gettext(str(v["lane"]))
    return v


def _wrong_key(v: dict[str, Any], reader: Reader) -> str:
    played, written, fifths = int(v["played"]), int(v["written"]), int(v["fifths"])
    return reader.say(
        KEY_UP if played > written else KEY_DOWN,
        {
            "played": reader.conventions.pitch(played, fifths=fifths),
            # What an older version found names no spelling.
            "written": reader.conventions.pitch(written, fifths=fifths, name_fifth=v.get("name")),
            "interval": describe_interval(played - written, reader),
        },
    )


def _voice_of(finding: Finding) -> str | None:
    """The hand, or the lane, that a finding is about: as a rung has it."""
    hand = finding.values.get("hand", finding.values.get("late"))
    return finding.place if hand is None else str(hand)


def practice_of(finding: Finding, *, last_bar: int, targets: int) -> Practice | None:
    """Return the rung that a finding suggests, within the part's bars. `targets` is the number of its notes."""
    kind = kind_of(finding.code)
    if kind.tone is Tone.PRAISE or kind.share is None or finding.bars is None:
        return None
    first, last = finding.bars
    if kind.joins:
        first, last = max(1, first - 1), min(last_bar, last + 1)
    if any(row < targets for row in finding.rows):
        last = min(last, first + LONGEST - 1)
    return Practice(
        first_bar=first,
        last_bar=last,
        tempo_share=kind.share,
        alone=_voice_of(finding) if kind.alone else None,
    )
