"""An error of the core in a reader's words."""

from ear.errors import EarError, FormatError, LineError, UnknownName
from ear.text import gettext_noop
from ear.words.reader import Reader

UNKNOWN = gettext_noop("unknown {what} “{name}”; known: {known}")
EXPECTED = gettext_noop("expected {expected}, found {found}")
EXPECTED_AT = gettext_noop("expected {expected} at {place}, found {found}")
IN_LINE = gettext_noop("line {line}: {problem}")
TRACK, BYTE = gettext_noop("track {track}"), gettext_noop("byte {offset}")


def said_error(problem: EarError, reader: Reader) -> str:
    """One sentence, without a full stop, as it stands beside a field."""
    if isinstance(problem, UnknownName):
        values = {**problem.values, "what": reader.gettext(problem.what), "known": ", ".join(problem.known)}
        return reader.say(UNKNOWN, values)
    if isinstance(problem, LineError):
        return reader.say(IN_LINE, {"line": problem.line, "problem": said_error(problem.problem, reader)})
    if isinstance(problem, FormatError):
        place = [reader.say(TRACK, {"track": problem.track})] if problem.track is not None else []
        place += [reader.say(BYTE, {"offset": problem.offset})] if problem.offset is not None else []
        values = {
            "expected": reader.gettext(problem.expected),
            "found": problem.found,
            "place": ", ".join(place),
        }
        return reader.say(EXPECTED_AT if place else EXPECTED, values)
    return reader.say(problem.text, problem.values)
