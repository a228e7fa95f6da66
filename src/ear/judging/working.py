"""A working in words: each line of a sum, and what capped the mark."""

from ear.criteria.score import WorkingLine
from ear.criteria.table import CRITERIA, LINES
from ear.criteria.working import LineText
from ear.criterion import CriterionKey
from ear.judging.judgement import LIKENESS, Ceiling, Rest
from ear.numerals import decimal
from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy

LIKENESS_CAPS = gettext_noop("Barely recognisable as this exercise: at most")

THE_REST = ngettext_lazy(
    "The rest, {cost} points, was lost on {count} note.",
    "The rest, {cost} points, is spread over {count} notes.",
)
THE_REST_OF_ALL = gettext_noop("The rest, {cost} points, belongs to no note in particular.")


def describe_line(line: WorkingLine, reader: Reader) -> LineText:
    """Return one line of the working in a reader's words. Lines of the first release kept their sentences."""
    known = LINES.get(line.code)
    if known is None:
        return LineText(label=str(line.values.get("label", "")), figure=str(line.values.get("figure", "")))
    return known.say(line, reader)


def describe_ceiling(ceiling: Ceiling, reader: Reader) -> LineText:
    """Return what capped the mark, in a reader's words."""
    bound = CRITERIA[CriterionKey(ceiling.of)].ceiling if ceiling.of != LIKENESS else None
    if bound is None:
        return LineText(
            label=reader.say(LIKENESS_CAPS, {}), figure=reader.write_numeral(decimal(ceiling.most))
        )
    values = {"least": decimal(bound.least), "rate": decimal(bound.rate), "by": decimal(ceiling.by, 1)}
    return LineText(label=reader.say(bound.text, values), figure=reader.write_numeral(decimal(ceiling.most)))


def describe_rest(rest: Rest, reader: Reader) -> str:
    """Return what of the loss no ear note explains, in a reader's words."""
    text = THE_REST if rest.notes else THE_REST_OF_ALL
    return reader.say(text, {"cost": decimal(rest.cost, 1), "count": rest.notes})
