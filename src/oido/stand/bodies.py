"""What the Stand sends while somebody plays, as typed values: checked before anything is stored.

The scripts have the same shapes: `./oido types` writes them.
"""

import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Annotated, Any

import msgspec
from django.utils import timezone
from django.utils.translation import gettext as _
from msgspec import Meta

from ear.errors import FormatError
from ear.formats.characters import without_control_characters
from ear.formats.events import MAX_TIME_MS, RawEvent, check_events
from ear.notes import STANDARD_KIT, Hand
from ear.notes.ending import Ending
from ear.notes.part import MAX_FIFTHS
from ear.practice.ladder import MAX_LOOPS, Rung
from ear.units import MAX_BPM, MAX_PITCH, MIN_BPM
from oido.common import problems
from oido.common.bodies import BadBody
from oido.common.sources import Source
from oido.takes.models import WayChoice
from oido.takes.practice import PlayedLoop
from oido.takes.services import NewPass, NewTake

MAX_LATENCY_MS = 1000.0
MAX_NUMBER = 2**31 - 1
MAX_TAPS = 200
MAX_SETTINGS = 400
SETTINGS_BYTES = 40_000
FIRST_DAY = datetime(2000, 1, 1, tzinfo=UTC)
"""A clock that stands before this, or after tomorrow, is wrong: the time of arrival is taken instead."""

Number = Annotated[int, Meta(ge=1, le=MAX_NUMBER)]
BarNumber = Annotated[int, Meta(ge=0, le=MAX_NUMBER)]
"""A pick-up is bar 0."""
Pitch = Annotated[int, Meta(ge=0, le=MAX_PITCH)]
Latency = Annotated[float, Meta(ge=-MAX_LATENCY_MS, le=MAX_LATENCY_MS)]
Place = Annotated[float, Meta(ge=-MAX_TIME_MS, le=MAX_TIME_MS)]
Bpm = Annotated[float, Meta(ge=MIN_BPM, le=MAX_BPM)]
Fifths = Annotated[int, Meta(ge=-MAX_FIFTHS, le=MAX_FIFTHS)]
Time = Annotated[float, Meta(ge=-1e9, le=1e9)]
Moment = Annotated[float, Meta(ge=0, le=1e14)]
"""ms since 1970."""
Event = tuple[float, int, int, int]


class RecordedBody(msgspec.Struct, kw_only=True, frozen=True):
    """What came from an instrument in one go."""

    id: uuid.UUID
    source: Source
    latency_ms: Latency
    recorded_at: Annotated[datetime, Meta(tz=True)]
    device: Annotated[str, Meta(max_length=120)] = ""
    pads: dict[Pitch, Pitch] | None = None
    """Numbers that pads send, and those that are meant."""

    def recorded(self, events: list[Event]) -> dict[str, Any]:
        """Return the recorded take. Raise BadBody."""
        if not self.source.row.is_played:
            raise BadBody(
                {
                    "source": [
                        _(
                            "A recording from a file cannot be sent here. Use “A recording from a file” instead."
                        )
                    ]
                }
            )
        tomorrow = timezone.now() + timedelta(days=1)
        is_likely = FIRST_DAY <= self.recorded_at <= tomorrow
        return {
            "id": self.id,
            "events": _checked(events),
            "source": self.source.value,
            "device": without_control_characters(self.device),
            "latency_ms": self.latency_ms,
            "recorded_at": self.recorded_at if is_likely else timezone.now(),
            "pads": dict(self.pads or {}),
        }


def _checked(events: list[Event]) -> list[RawEvent]:
    try:
        return check_events(events)
    except FormatError as problem:
        raise BadBody({"events": [str(problems.error_message(problem))]}) from problem


class TakeBody(RecordedBody, kw_only=True, frozen=True):
    part: Number
    events: list[Event]
    tempo_bpm: Decimal | None = None
    """As a number, or as text."""
    fifths: Fifths | None = None
    heard_click: bool | None = None
    ending: Ending = Ending.STOPPED

    def new_take(self) -> NewTake:
        return NewTake(
            **self.recorded(self.events),
            part_id=self.part,
            tempo_bpm=self._tempo(),
            fifths=self.fifths,
            heard_click=self.heard_click is not False,
            ending=self.ending,
        )

    def _tempo(self) -> Decimal | None:
        if self.tempo_bpm is None:
            return None
        if not (self.tempo_bpm.is_finite() and MIN_BPM <= self.tempo_bpm <= MAX_BPM):
            raise BadBody({"tempo_bpm": [_("The tempo must be between 10 and 400.")]})
        return self.tempo_bpm.quantize(Decimal("0.01"))


class PassBody(RecordedBody, kw_only=True, frozen=True):
    """A further pass; one without events only takes away."""

    way: WayChoice
    from_ms: Place
    until_ms: Place
    events: list[Event] | None = None
    lanes: list[str] | None = None
    """What it replaces, or all: lanes of a kit."""

    def new_pass(self) -> NewPass:
        known = {lane.name: lane.pitches for lane in STANDARD_KIT.lanes}
        lanes = self.lanes or []
        if not set(lanes) <= known.keys():
            raise BadBody({"lanes": [_("These lanes do not belong to the kit. Reload the page.")]})
        if self.from_ms >= self.until_ms:
            raise BadBody({"until_ms": [_("A pass must end after it begins.")]})
        return NewPass(
            **self.recorded(self.events or []),
            way=self.way.value,
            from_ms=self.from_ms,
            until_ms=self.until_ms,
            pitches=sorted(pitch for name in lanes for pitch in known[name]),
        )


class PractisedBody(msgspec.Struct, kw_only=True, frozen=True):
    """What was practised: a rung by its number, or chosen bars."""

    first_bar: BarNumber
    last_bar: BarNumber
    fifths: Fifths
    source: Source
    events: list[Event] | None = None
    rung: Number | None = None
    hand: str = ""
    lanes: list[str] | None = None

    def chosen(self) -> Rung:
        """Return the chosen bars as a rung of their own. Raise ValueOutOfRange."""
        if self.hand and self.hand not in set(Hand):
            raise BadBody({"hand": [_("Choose the right or the left hand.")]})
        return Rung(
            name="chosen", first_bar=self.first_bar, last_bar=self.last_bar, hand=Hand(self.hand) if self.hand else None,
            lanes=tuple(self.lanes or ()), loops=MAX_LOOPS, needed_loops=1,
        )  # fmt: skip

    def played_events(self) -> list[RawEvent]:
        """Return what was played. Raise BadBody."""
        if not self.source.row.is_played:
            raise BadBody(
                {
                    "source": [
                        _(
                            "A recording from a file cannot be sent here. Use “A recording from a file” instead."
                        )
                    ]
                }
            )
        return _checked(self.events or [])


class PaceBody(PractisedBody, kw_only=True, frozen=True):
    """Bars that were played at one's own pace."""


class LoopBody(PractisedBody, kw_only=True, frozen=True):
    """One loop against the click."""

    bpm: Bpm
    latency_ms: Latency

    def played(self) -> PlayedLoop:
        """Return the loop. Raise BadBody."""
        return PlayedLoop(
            events=self.played_events(), bpm=self.bpm, fifths=self.fifths, latency_ms=self.latency_ms,
            has_touch=self.source.row.has_touch,
        )  # fmt: skip


class SettingsBody(msgspec.Struct, kw_only=True, frozen=True):
    """Settings of the person who plays, by name: when each was set, in ms, and what."""

    kept: Annotated[
        dict[Annotated[str, Meta(max_length=40)], tuple[Moment, Any]], Meta(max_length=MAX_SETTINGS)
    ]


class TapsBody(msgspec.Struct, kw_only=True, frozen=True):
    """Taps along with a click: times in ms on one clock."""

    taps: Annotated[list[Time], Meta(max_length=MAX_TAPS)] = []
    beats: Annotated[list[Time], Meta(max_length=MAX_TAPS)] = []
