"""The one tree of errors that the core raises.

EarError
├── ValueOutOfRange    a value made by the caller breaks its own rule
├── FormatError        a file cannot be read: says where, what was expected, what was found
├── LineError          a line of a text cannot be read: says which, and holds what is wrong
└── UnknownName        a level, a kind or another name that the core does not know

An error carries a code, values, and the field that it concerns; what it says to whom is made in
`ear.words.errors`. In plain English, for a log or a terminal, it says itself.
"""

from collections.abc import Mapping

from ear.error_texts import ERROR_TEXTS
from ear.text import Text


class EarError(Exception):
    """Base of everything that the core raises on purpose."""

    def __init__(self, code: str, *, field: str | None = None, **values: object) -> None:
        self.code, self.field = code, field
        self.values: Mapping[str, object] = values
        super().__init__(code)

    @property
    def text(self) -> Text:
        """The error in words, to be said by a reader."""
        return ERROR_TEXTS[self.code]

    def __str__(self) -> str:
        return self.text.singular.format(**self.values)


class ValueOutOfRange(EarError):
    """A value breaks the rule of the type that was to hold it."""


class UnknownName(EarError):
    """A name is not among the ones that are known."""

    def __init__(self, *, kind: str, name: str, known: tuple[str, ...]) -> None:
        self.kind, self.name, self.known = kind, name, known
        super().__init__("unknown_name", what=kind, name=name)

    def __str__(self) -> str:
        return f"There is no {self.kind} “{self.name}”. Oido knows, for example, {', '.join(self.known)}."


class LineError(EarError):
    """A line of a text, counted from 1, is not what it should be; `problem` says why."""

    def __init__(self, *, line: int, problem: EarError) -> None:
        self.line, self.problem = line, problem
        super().__init__("line_of_text", line=line, problem=problem)

    def __str__(self) -> str:
        return f"Line {self.line}: {self.problem}"


class FormatError(EarError):
    """A file is not what it should be.

    `offset` counts bytes from the start of the file, `track` tracks from 0; either may be
    unknown (None).
    """

    def __init__(
        self,
        *,
        expected: str,
        actual: str,
        track: int | None = None,
        offset: int | None = None,
    ) -> None:
        self.expected, self.actual, self.track, self.offset = expected, actual, track, offset
        super().__init__("format", expected=expected, actual=actual, track=track, offset=offset)

    def __str__(self) -> str:
        place = []
        if self.track is not None:
            place.append(f"track {self.track}")
        if self.offset is not None:
            place.append(f"byte {self.offset}")
        where = f" at {', '.join(place)}" if place else ""
        return f"expected {self.expected}{where}, found {self.actual.rstrip('.')}."
