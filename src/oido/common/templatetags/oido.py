"""Template helpers that are shared by all apps."""

import json
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

from django import template
from django.templatetags.static import static
from django.utils.html import json_script
from django.utils.safestring import SafeString
from django.utils.translation import gettext

from ear.notes import MeterChange, Part, TempoChange, folded, pitch_name
from ear.words.phrases import describe_bars
from oido.common.readers import PAGES, number, signed_number

register = template.Library()

EMPTY_SIGN = "–"
SOUND_NAMES = ("0", "4", "19", "32", "48", "kit")
"""The sounds of `tools/assets/bank.mjs`: General MIDI programs counted from 0, and the kit."""
SMALL_SOUNDS = frozenset({"4", "32"})
"""Those that are so small that they have no first version."""


@register.filter
def px(value: float | None) -> str:
    """A length of a drawing, short and with a point whatever the language."""
    if value is None:
        return ""
    return f"{value:.2f}".rstrip("0").rstrip(".")


@register.filter
def written_bars(part: Part) -> int | None:
    """How many bars stand on paper, where some of them are played again."""
    return part.form.bars if part.form is not None and folded(part) is not None else None


@register.filter
def meter_changes(part: Part) -> list[MeterChange]:
    """The meters behind the first one."""
    return list(part.meters.changes[1:])


@register.filter
def tempo_changes(part: Part) -> list[TempoChange]:
    """Tempos behind the first one, where they are others: a pick-up and a tempo mark may say the same twice."""
    return [
        after for before, after in pairwise(part.stated_tempos) if f"{after.bpm:.1f}" != f"{before.bpm:.1f}"
    ]


@register.filter
def bars_in_words(bars: Sequence[int]) -> str:
    """The first and the last of some bars, as the pages say them."""
    first, last = bars
    return describe_bars((first, last), PAGES)


@register.filter
def json_text(value: Any) -> str:
    """For an attribute: it is escaped there."""
    return json.dumps(value, separators=(",", ":"))


@register.filter
def score(value: float | None) -> str:
    """A mark without decimals, or a dash."""
    return EMPTY_SIGN if value is None else f"{value:.0f}"


@register.filter
def points(value: float | None) -> str:
    """A mark as it is written: 7.5, 8; or a dash."""
    return EMPTY_SIGN if value is None else number(value)


@register.filter
def translated(name: str) -> str:
    """A name of the core, such as a lane’s, in the language of the page."""
    return gettext(name)


@register.filter
def of(values: Mapping[str, Any], name: str) -> Any:
    """What stands under a name, or nothing."""
    return values.get(name)


@register.filter
def signed_ms(value: float | None) -> str:
    """+12 or −12, with a real minus; a dash for none."""
    return EMPTY_SIGN if value is None else signed_number(value)


@register.filter
def signed_beats(value: float | None) -> str:
    """+0.12 or −0.08, with a real minus; a dash for none."""
    return EMPTY_SIGN if value is None else signed_number(value, 2)


@register.filter
def minus(value: float, other: float) -> float:
    return value - other


@register.filter
def plus(value: float, other: float) -> float:
    return value + other


@register.filter
def json_data(value: Any, element_id: str) -> SafeString:
    """Data for a script, in an element of its own; compact."""
    return json_script(value, element_id)


@register.filter
def offered(exports: Sequence[Any], subject: Any) -> list[Any]:
    """Those files that there are of a subject."""
    return [export for export in exports if export.applies_to(subject)]


@register.simple_tag
def sound_addresses() -> SafeString:
    """Where a page's script finds the synthesiser and its sounds, each in a small first version and a full one."""
    sounds = {
        name: {version: static(file) for version, file in sound_files(name).items()} for name in SOUND_NAMES
    }
    return json_script({"worklet": static("sound/synth.js"), "sounds": sounds}, "sounds")


def sound_files(name: str) -> dict[str, str]:
    """Return the files of a sound by their version; of a small one it is the same file."""
    first = "full" if name in SMALL_SOUNDS else "first"
    return {"first": f"sound/{first}-{name}.sf3", "full": f"sound/full-{name}.sf3"}


@register.filter
def times(value: float, other: float) -> float:
    return value * other


@register.filter
def at(values: Sequence[Any], index: int) -> Any:
    """One of several, by its place."""
    return values[index]


@register.simple_tag
def pitch_span(choice: Any) -> str:
    """From the lowest to the highest pitch, by name."""
    return f"{pitch_name(choice.low)} – {pitch_name(choice.high)}"
