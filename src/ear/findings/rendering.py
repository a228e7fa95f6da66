"""An ear note in a sentence, for a teacher or a student, in the reader's conventions."""

from ear.findings.finding import Finding
from ear.findings.kind import PlayedOn
from ear.reader import Reader


def render_finding(finding: Finding, to: str, reader: Reader, *, played_on: PlayedOn = PlayedOn.KEYS) -> str:
    """Return an ear note as a sentence for `to`, which is FOR_TEACHER or FOR_STUDENT.

    `played_on` chooses the advice to a student: what helps on a keyboard helps nobody on typing keys.
    """
    return reader.say(finding.text(to, played_on), finding.gaps(reader))
