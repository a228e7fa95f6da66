"""What a corrected copy shows: seen from its notes and those of the take, by whatever tool it was done."""

from collections import defaultdict
from collections.abc import Collection, Mapping

from ear.measuring.grid import GRID_STEPS
from ear.notes import Note, Part
from ear.practice.showing import Shown, Skill, ToShow
from ear.recording.corrected import Compared, Corrected, Correction, compared

OFF_TICKS = 12
"""Of 480 to the quarter: a note no further from its line lies on it as far as an ear can tell (1/40 of a quarter,
12 ms at 120)."""
MIN_QUANTISED = 2
"""Notes off their lines that a bar must have for its quantising to show."""
Place = tuple[int, int]
"""Where a note stands in a copy, in ticks, and its pitch."""


def seen(
    raw: Part,
    copy: Part,
    asked: tuple[ToShow, ...],
    *,
    written: Collection[int],
    wrong: Mapping[Place, int],
    extra: Collection[Place],
    may_repeat: bool,
) -> tuple[Shown, ...]:
    """Return, for each thing asked, what the copy shows of it.

    `written` are the onsets of the part; `wrong` says of each wrong note of the take which pitch was written, `extra`
    which notes were too many; `may_repeat` is as `compared` says.
    """
    comparison = compared(raw, copy, may_repeat=may_repeat)
    return tuple(
        _seen(item, comparison, raw=raw, written=written, wrong=wrong, extra=extra) for item in asked
    )


def _seen(
    asked: ToShow,
    comparison: Compared,
    *,
    raw: Part,
    written: Collection[int],
    wrong: Mapping[Place, int],
    extra: Collection[Place],
) -> Shown:
    def of(kind: Corrected) -> list[Correction]:
        return [c for c in comparison.corrections if c.kind is kind]

    match asked.skill:
        case Skill.QUANTISED:
            count, all_off, is_done = _quantised(raw, of(Corrected.MOVED), written)
            return Shown(asked=asked, count=count, of=all_off, is_done=is_done)
        case Skill.WRONG_NOTE:
            right = sum(wrong.get(_place(c.note)) == c.after for c in of(Corrected.PITCH))
            return Shown(asked=asked, count=right, of=len(wrong), is_done=right > 0)
        case Skill.EXTRA_NOTE:
            gone = sum(_place(c.note) in extra for c in of(Corrected.DELETED))
            return Shown(asked=asked, count=gone, of=len(extra), is_done=gone > 0)
        case Skill.LENGTHS:
            changed = len(of(Corrected.LENGTH))
        case Skill.LOUDNESS:
            changed = len(of(Corrected.VELOCITY))
        case Skill.REPEATED:
            changed = len(comparison.repeated)
    return Shown(asked=asked, count=changed, is_done=changed > 0)


def _place(note: Note) -> Place:
    return note.onset_tick, note.pitch


def _quantised(raw: Part, moves: list[Correction], written: Collection[int]) -> tuple[int, int, bool]:
    """Notes that lie nearer to their lines, of those that lay off them; and whether in some bar all do, and none lies
    further away.

    Lines are those of the grid, among the usual ones and the written onsets, by which most came nearer: which grid a
    student takes is the student's.
    """
    moved = {_place(c.note): c.after for c in moves}
    best = None
    for step in (None, *GRID_STEPS):
        by_bar: dict[int, list[bool]] = defaultdict(list)
        spoiled = set()
        for n in raw.notes:
            before = _from_line(n.onset_tick, step, written)
            after = _from_line(moved.get(_place(n), n.onset_tick), step, written)
            bar = raw.meters.position(n.onset_tick).bar
            if after > before:
                spoiled.add(bar)
            elif before > OFF_TICKS:
                by_bar[bar].append(after < before)
        nearer = sum(sum(bar) for bar in by_bar.values())
        off = sum(len(bar) for bar in by_bar.values())
        is_done = any(
            len(notes) >= MIN_QUANTISED and all(notes) for bar, notes in by_bar.items() if bar not in spoiled
        )
        if best is None or (is_done, nearer) > (best[2], best[0]):
            best = (nearer, off, is_done)
    assert best is not None
    return best


def _from_line(tick: int, step: int | None, written: Collection[int]) -> int:
    """Ticks to the next line of a grid; None for the written onsets."""
    if step is None:
        return min((abs(tick - onset) for onset in written), default=0)
    return abs((tick + step // 2) % step - step // 2)
