"""The one tree of errors that the core raises.

EarError
├── ValueOutOfRange    a value made by the caller breaks its own rule
├── FormatError        a file cannot be read: says where, what was expected, what was found
└── UnknownName        a level, a kind or another name that the core does not know
"""


class EarError(Exception):
    """Base of everything that the core raises on purpose."""


class ValueOutOfRange(EarError):
    """A value breaks the rule of the type that was to hold it."""


class UnknownName(EarError):
    """A name is not among the ones that are known."""

    def __init__(self, *, what: str, name: str, known: tuple[str, ...]) -> None:
        self.what, self.name, self.known = what, name, known
        super().__init__(f"unknown {what} “{name}”; known: {', '.join(known)}")


class FormatError(EarError):
    """A file is not what it should be.

    `offset` counts bytes from the start of the file, `track` tracks from 0; either may be
    unknown (None).
    """

    def __init__(
        self,
        *,
        expected: str,
        found: str,
        track: int | None = None,
        offset: int | None = None,
    ) -> None:
        self.expected, self.found, self.track, self.offset = expected, found, track, offset
        place = []
        if track is not None:
            place.append(f"track {track}")
        if offset is not None:
            place.append(f"byte {offset}")
        where = f" at {', '.join(place)}" if place else ""
        super().__init__(f"expected {expected}{where}, found {found}")
