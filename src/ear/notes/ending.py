"""Why a recording ended: what keeps on being told of a player is not told of a cable."""

from enum import StrEnum


class Ending(StrEnum):
    """Of a recording that is there."""

    ITSELF = "itself"
    """The music was over."""
    STOPPED = "stopped"
    """The player stopped it."""
    UNPLUGGED = "unplugged"
    CLOSED = "closed"
    """The page was closed, or the machine went off."""
    STALLED = "stalled"
    """The machine's sound stood still."""

    @property
    def is_mishap(self) -> bool:
        """Would the player have gone on?"""
        return self in (Ending.UNPLUGGED, Ending.CLOSED, Ending.STALLED)
