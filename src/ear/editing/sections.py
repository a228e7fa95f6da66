"""Sections: stretches of a part with a name and a tempo of their own, each from its bar to the next one's."""

from dataclasses import dataclass, replace

from ear.editing.bars import tempo_map
from ear.errors import ValueOutOfRange
from ear.notes import Part, Section, TempoChange

MAX_NAME_LENGTH = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayedSection:
    """A section as it is played. `bpm` in quarters a minute, where it begins."""

    name: str
    first_bar: int
    last_bar: int
    bpm: float


def stretches(part: Part) -> tuple[PlayedSection, ...]:
    """Return all bars of a part divided by its sections; bars before the first section have no name.

    Empty if the part has no sections.
    """
    starts = [(s.bar, s.name) for s in part.sections if s.bar <= part.last_bar]
    if not starts:
        return ()
    if starts[0][0] > part.first_bar:
        starts.insert(0, (part.first_bar, ""))
    ends = [*(bar - 1 for bar, _ in starts[1:]), part.last_bar]
    return tuple(
        PlayedSection(name=name, first_bar=bar, last_bar=end, bpm=part.tempos.bpm_at(_tick(part, bar)))
        for (bar, name), end in zip(starts, ends, strict=True)
    )


def set_section(part: Part, *, bar: int, name: str, bpm: float | None = None) -> Part:
    """Begin a section at a bar, in place of one that began there.

    With `bpm` it is at that tempo up to the next section, which keeps its own; without, tempos stay as they
    are. Raises ValueOutOfRange.
    """
    _check(part, bar)
    if not name.strip() or len(name) > MAX_NAME_LENGTH:
        raise ValueOutOfRange("section_name_length", field="name", name_most=MAX_NAME_LENGTH)
    others = [s for s in part.sections if s.bar != bar]
    known = next((s for s in part.sections if s.bar == bar), None)
    has_keys = any(s.fifths is not None for s in part.sections)
    fifths = known.fifths if known else (part.fifths_at(_tick(part, bar)) if has_keys else None)
    made = Section(bar=bar, name=name.strip(), fifths=fifths)
    named = replace(part, sections=tuple(sorted([*others, made], key=lambda s: s.bar)))
    return named if bpm is None else _at(named, bar, bpm)


def remove_section(part: Part, *, bar: int) -> Part:
    """Merge the section that begins at a bar into the one before it, whose tempo continues.

    The first section leaves its tempo behind. Raises ValueOutOfRange if no section begins there.
    """
    _check(part, bar)
    if all(s.bar != bar for s in part.sections):
        raise ValueOutOfRange("no_section_at_bar", field="bar", bar=bar)
    kept = part if bar == part.first_bar else _at(part, bar, part.tempos.bpm_at(_tick(part, bar) - 1))
    return replace(kept, sections=tuple(s for s in kept.sections if s.bar != bar))


def _at(part: Part, bar: int, bpm: float) -> Part:
    """One tempo from a bar to the next section; what follows is as it was."""
    start = _tick(part, bar)
    after = min((s.bar for s in part.sections if s.bar > bar), default=None)
    changes = [c for c in part.tempos.changes if c.tick < start]
    changes.append(TempoChange(tick=start, bpm=bpm))
    if after is not None:
        end = _tick(part, after)
        changes.append(TempoChange(tick=end, bpm=part.tempos.bpm_at(end)))
        changes += [c for c in part.tempos.changes if c.tick > end]
    return replace(part, tempos=tempo_map(changes))


def _check(part: Part, bar: int) -> None:
    if not part.first_bar <= bar <= part.last_bar:
        raise ValueOutOfRange("bar_outside_part", field="bar", count=part.last_bar)


def _tick(part: Part, bar: int) -> int:
    return part.meters.bar(bar).start_tick
