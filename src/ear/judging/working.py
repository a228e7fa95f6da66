"""A working in words: for each line of a sum what it is, and its figures; to be read aloud to a parent."""

from dataclasses import dataclass

from ear.judging.judgement import Ceiling, CeilingOf, WorkingLine
from ear.text import Text, gettext_noop, ngettext_lazy
from ear.words.reader import Reader, decimal, signed


@dataclass(frozen=True, slots=True, kw_only=True)
class LineText:
    """A line of the working in words."""

    label: str
    figure: str


def _row(label: Text, figure: str | Text = "") -> tuple[Text, Text]:
    return label, figure if isinstance(figure, Text) else Text(singular=figure)


_N = "{count}"
WORKING: dict[str, tuple[Text, Text]] = {
    "take_empty": _row(gettext_noop("the take is empty"), "0"),
    "take_foreign": _row(gettext_noop("this is a different piece"), "0"),
    "nothing_found": _row(gettext_noop("no note of the part was found"), "0"),
    "notes_right": _row(gettext_noop("right notes"), gettext_noop("{count} of {of} written")),
    "notes_wrong": _row(gettext_noop("wrong notes"), _N),
    "notes_missed": _row(gettext_noop("missed notes"), _N),
    "notes_extra": _row(gettext_noop("extra notes, each counts as one"), "{count} → {weighed}"),
    "notes_double": _row(gettext_noop("double hits, each counts as half a note"), "{count} → {weighed}"),
    "notes_ornament": _row(gettext_noop("notes of ornaments that are not written, each a quarter of a note"), "{count} → {weighed}"),
    "notes_overlaid": _row(gettext_noop("notes of a pass played over the first, each a quarter of a note"), "{count} → {weighed}"),
    "notes_graze": _row(gettext_noop("brushed keys, each counts as a quarter of a note"), "{count} → {weighed}"),
    "notes_share": _row(
        gettext_noop("right, out of the notes written plus extra notes"), "{right} ÷ {whole} = {percent}%"
    ),
    "notes_floor": _row(
        gettext_noop("points, from 0 at {floor}% right to 100 with all right"),
        "({percent} − {floor}) ÷ (100 − {floor}) → {score}",
    ),
    "timing_window": _row(gettext_noop("in time within {full} ms"), gettext_noop("nothing from {none} ms off")),
    "timing_forgiven": _row(gettext_noop("constant lead (−) or lag (+) that costs nothing"), gettext_noop("{forgiven} ms")),
    "timing_full": _row(gettext_noop("notes in time"), _N),
    "timing_partly": _row(
        gettext_noop("notes nearly in time"),
        ngettext_lazy("{count}, worth {credit} of a note", "{count}, worth {credit} notes in all"),
    ),
    "timing_beside": _row(
        gettext_noop("notes nearer the player’s own time than the click’s"),
        ngettext_lazy("{count}, worth {credit} of a note", "{count}, worth {credit} notes in all"),
    ),
    "timing_none": _row(gettext_noop("notes too far off"), _N),
    "not_played": _row(gettext_noop("notes not played, worth nothing"), _N),
    "mean_credit": _row(gettext_noop("credit, out of all notes written"), "{earned} ÷ {of} → {score}"),
    "late_start": _row(gettext_noop("late start"), "−{cost}"),
    "early_start": _row(gettext_noop("early start"), "−{cost}"),
    "slip": _row(gettext_noop("slip in bar {bar}"), "−{cost}"),
    "recovery": _row(gettext_noop("comes back to the click in bar {bar}"), "−{cost}"),
    "restart": _row(gettext_noop("starts again in bar {bar}"), "−{cost}"),
    "skip": _row(gettext_noop("skips to bar {bar}"), "−{cost}"),
    "repeat_left_out": _row(gettext_noop("leaves out the repeat before bar {bar}"), "−{cost}"),
    "repeat_added": _row(gettext_noop("repeats from bar {bar}"), "−{cost}"),
    "skip_bar": _row(gettext_noop("skips to bar {bar}"), "−{cost}"),
    "unfinished": _row(ngettext_lazy("{count} of {of} bars missing at the end", "{count} of {of} bars missing at the end"), "−{cost}"),
    "flow_whole": _row(gettext_noop("no slip, no stop, to the end")),
    "flow_sum": _row(gettext_noop("100 minus these"), "100 − {cost} → {score}"),
    "no_touch": _row(gettext_noop("not assessed"), gettext_noop("this input has no touch")),
    "drums_have_no_length": _row(gettext_noop("not assessed"), gettext_noop("a drum hit has no length")),
    "level_off": _row(
        gettext_noop("louder or softer than written, overall"),
        gettext_noop("{steps} of 127 steps, up to {forgiven} cost nothing"),
    ),
    "touch_accents": _row(gettext_noop("accents brought out"), "{earned} ÷ {of} → {score}"),
    "touch_others": _row(gettext_noop("other notes at the written loudness"), "{earned} ÷ {of} → {score}"),
    "touch_sum": _row(gettext_noop("accents count {accents}%, the others {others}%"), "{score}"),
    "length_window": _row(
        gettext_noop("full credit between {from} and {to}% of the written length"),
        gettext_noop("nothing below {least}% or above {most}%"),
    ),
    "length_middle": _row(gettext_noop("a typical note (the median)"), gettext_noop("{percent}% of its length")),
    "length_pedal": _row(gettext_noop("held by the pedal or to the end of the recording, counted as right"), _N),
    "no_pedal": _row(gettext_noop("not assessed"), gettext_noop("this input has no pedal")),
    "pedal_not_counted": _row(gettext_noop("not assessed"), gettext_noop("no pedal is written at the notes that count")),
    "pedal_window": _row(
        gettext_noop("in time from {early} ms before to {late} ms after the sound"),
        gettext_noop("nothing from {early_none} ms before or {late_none} ms after"),
    ),
    "pedal_in_time": _row(gettext_noop("pedal moves in time"), _N),
    "pedal_partly": _row(
        gettext_noop("pedal moves nearly in time"),
        ngettext_lazy("{count}, worth {credit} of a move", "{count}, worth {credit} moves in all"),
    ),
    "pedal_blurred": _row(gettext_noop("not changed: blurred"), _N),
    "pedal_dry": _row(gettext_noop("not down: dry"), _N),
    "pedal_credit": _row(gettext_noop("credit, out of all pedal moves written"), "{earned} ÷ {of} → {score}"),
    "free_set": _row(gettext_noop("notes inside the set"), "{right} ÷ {of} → {score}"),
    "free_short": _row(gettext_noop("too few notes"), _N),
    "timing_by_chance": _row(
        gettext_noop("how likely this is in time rather than by chance"), "{plain} × {percent}% → {earned}"
    ),
    "free_bars": _row(gettext_noop("bars filled as asked"), "{right} ÷ {of} → {score}"),
    "free_repeated": _row(gettext_noop("repeated as asked"), "{percent}% → {score}"),
    "as_stored": (Text(singular="{label}"), Text(singular="{figure}")),
}  # fmt: skip
"""`as_stored` are lines of the first release, which kept its sentences."""

CEILINGS = {
    CeilingOf.NOTES: gettext_noop("Notes caps the mark: at most 45 + 0.55 × {by}"),
    CeilingOf.TIMING: gettext_noop("Timing caps the mark: at most 20 + 0.8 × {by}"),
    CeilingOf.LIKENESS: gettext_noop("Barely recognisable as this exercise: at most"),
}


def describe_line(line: WorkingLine, reader: Reader) -> LineText:
    """Return one line of the working in a reader's words."""
    label, figure = WORKING.get(line.code, WORKING["as_stored"])
    values: dict[str, object] = {"label": "", "figure": ""}
    for name, value in line.values.items():
        values[name] = decimal(value, 2) if isinstance(value, float) else value
    if line.code == "timing_window":
        values |= {name: decimal(float(line.values[name]), 1) for name in ("full", "none")}
    elif line.code == "timing_forgiven":
        values["forgiven"] = signed(float(line.values["forgiven"]))
    elif line.code == "level_off":
        values["steps"] = signed(float(line.values["steps"]))
    return LineText(label=reader.say(label, values), figure=reader.say(figure, values))


def describe_ceiling(ceiling: Ceiling, reader: Reader) -> LineText:
    """Return what capped the mark, in a reader's words."""
    return LineText(
        label=reader.say(CEILINGS[ceiling.of], {"by": decimal(ceiling.by, 1)}), figure=decimal(ceiling.most)
    )
