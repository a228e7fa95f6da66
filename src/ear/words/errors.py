"""An error of the core in a reader's words."""

from ear.errors import EarError, FormatError, LineError, UnknownName
from ear.reader import Reader
from ear.text import gettext_noop

UNKNOWN = {
    "chord": gettext_noop("There is no chord “{name}”. Oido knows, for example, {known}."),
    "lane": gettext_noop("There is no lane “{name}”. Oido knows, for example, {known}."),
    "level": gettext_noop("There is no level of strictness “{name}”. Oido knows, for example, {known}."),
    "note": gettext_noop("There is no note “{name}”. Oido knows, for example, {known}."),
    "sign": gettext_noop("There is no loudness sign “{name}”. Oido knows, for example, {known}."),
}
"""By the kind of an UnknownName."""
UNREADABLE = gettext_noop("This could not be read: Oido expected {expected} but found {found}.")
TRACK_UNREADABLE = gettext_noop(
    "Track {track} could not be read: Oido expected {expected} but found {found}."
)
IN_LINE = gettext_noop("Line {line}: {problem}")


def describe_error(problem: EarError, reader: Reader) -> str:
    """Return what a person reads beside the field: whole sentences. Where in the file's bytes something is wrong is for
    the log alone."""
    if isinstance(problem, UnknownName):
        return reader.say(UNKNOWN[problem.kind], {"name": problem.name, "known": ", ".join(problem.known)})
    if isinstance(problem, LineError):
        return reader.say(IN_LINE, {"line": problem.line, "problem": describe_error(problem.problem, reader)})
    if isinstance(problem, FormatError):
        values = {
            "expected": reader.gettext(problem.expected),
            "found": problem.actual.rstrip("."),
            "track": problem.track,
        }
        return reader.say(UNREADABLE if problem.track is None else TRACK_UNREADABLE, values)
    return reader.say(problem.text, problem.values)
