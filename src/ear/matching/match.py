"""Match a take with its target part.

Three unknowns are common to the whole take and searched (`search.py`): the transposition, the player's clock
(`clock.py`: the click, or his own tempo, which may move) and the path of jumps on it (`path.py`, where the model and its
cost stand). Given them, notes are linked one to one (`pairing.py`) and the rest is named (`naming.py`).

The hypothesis "in this key, with the click" comes first; others are tried only while it leaves notes on both sides
that they could link, or bends: other keys that the pitches speak for, the player followed at whatever tempo
(`following.py`), both at once, and before a take is called foreign every key within an octave. Each other hypothesis pays
a fixed cost, so that the simpler story wins where both tell as much. Where many notes of the take are astray, the search
is made once more along the take, for takes of which much was played twice (`renditions.py`).

Cost: O(moments x shifts) for each hypothesis that is tried, O(strokes x moments) for each time the player is followed; a
narrow band only for takes that kept to the click. Deterministic; ties fall to the earlier hypothesis.
"""

from collections.abc import Mapping
from dataclasses import replace

from ear.matching.breaks import with_breaks, with_first_struck
from ear.matching.landings import landed_elsewhere
from ear.matching.last_note import with_last_note
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.naming import name_rows
from ear.matching.octaves import octaves_meant
from ear.matching.ornaments import link_main_strokes
from ear.matching.outcome import Match, Outcome, Pair, TimeBase
from ear.matching.pace import Pace
from ear.matching.pads import pads_meant
from ear.matching.pairing import ABSENT
from ear.matching.search import search
from ear.matching.short import by_order, is_short
from ear.matching.slips import own_time
from ear.matching.wrong_in_a_row import link_wrong_in_a_row
from ear.notes import STANDARD_KIT, KitMap, Part, Take

FOREIGN_SHARE = 0.4
"""A take of which less than this share finds its place is of something else."""
IN_PLACE_SHARE, RIGHT_SHARE = 0.8, 0.86
"""Shares found in their places, and right, from which there is no doubt that it is this part."""
SHORT_NOTES = 8
"""Notes on one side below which "of something else" takes more: a few notes find no place by chance."""


def match(
    part: Part,
    take: Take,
    *,
    kit: KitMap = STANDARD_KIT,
    transposed: int | None = None,
    landings: Mapping[int, int] | None = None,
) -> Match:
    """Find which take note is which target note. Never fails: an empty or foreign take gives
    a match without links. With `transposed` the key is known: so many semitones above the part's. Where the place of a
    jump is a guess, `landings` says by the first of the notes that it `could_land` on, on which it did."""
    if not part.notes or not take.notes:
        return _nothing(part, take, is_foreign=False)
    if transposed is not None:
        lowered = (replace(n, pitch=n.pitch - transposed) for n in take.notes)
        return replace(
            _match(part, replace(take, notes=tuple(lowered)), kit=kit, in_key=True, landings=landings),
            transposition=transposed,
        )
    return _match(part, take, kit=kit, in_key=False, landings=landings)


def _match(part: Part, take: Take, *, kit: KitMap, in_key: bool, landings: Mapping[int, int] | None) -> Match:
    matcher = Matcher(part, take, kit=kit, in_key=in_key)
    best = search(matcher)
    meant = pads_meant(matcher, best)
    if meant:
        relabelled = Matcher(part, take, kit=kit, pads=meant, in_key=in_key)
        again = search(relabelled)
        if again.worth > best.worth:
            matcher, best = relabelled, again
    octaves = octaves_meant(matcher, best)
    if octaves:
        own = matcher.with_hands(octaves)
        again = search(own)
        if again.worth > best.worth:
            matcher, best = own, again
    if is_short(matcher):
        best = by_order(matcher, best)
    if landings:
        best = landed_elsewhere(matcher, best, landings)
    link_wrong_in_a_row(matcher, best)
    best = with_breaks(matcher, with_first_struck(matcher, with_last_note(matcher, best)))
    link_main_strokes(matcher, best)
    linked = int((best.links.take_of != ABSENT).sum())
    likeness = _likeness(matcher, best, linked=linked)
    if likeness <= 0.0:
        return _nothing(part, take, is_foreign=True)
    matcher.tell_other_pads(best)
    matcher.tell_octaves(best)
    pace, slips = own_time(matcher, best)
    if landings:
        slips = tuple(replace(s, is_told=True) if {*s.could_land[:1]} & {*landings} else s for s in slips)
    base = TimeBase(pace=pace, slips=slips)
    pairs = name_rows(matcher, best, slips)
    return Match(
        pairs=pairs,
        time_base=base,
        transposition=best.transposition,
        is_foreign=False,
        likeness=likeness,
        octaves=tuple(sorted(matcher.octaves.items())),
    )


def _likeness(matcher: Matcher, hypothesis: Hypothesis, *, linked: int) -> float:
    """How surely the take is of this part: 1 without doubt, 0 where it is of something else.

    What a path's costs take off it weighs less in short takes, in which one jump would be half of all. Of a
    kit played on one pad the rhythm is what there is to know it by.
    """
    least = min(len(matcher.target), len(matcher.played))
    right = float(linked - int(hypothesis.links.is_wrong.sum()))
    # A key or a tempo of one's own makes it no other piece.
    in_place = hypothesis.path.score
    if matcher.is_on_one_pad:
        right = in_place = float(linked)
    elif least < SHORT_NOTES and right > in_place:
        in_place += (right - in_place) * min(1.0, 2.0 * (1.0 - least / SHORT_NOTES))
    return max(
        0.0,
        min(
            1.0,
            (in_place / least - FOREIGN_SHARE) / (IN_PLACE_SHARE - FOREIGN_SHARE),
            (right / least - FOREIGN_SHARE) / (RIGHT_SHARE - FOREIGN_SHARE),
        ),
    )


def _nothing(part: Part, take: Take, *, is_foreign: bool) -> Match:
    """All missed, all extra."""
    missed = (Pair(target=i, take=None, outcome=Outcome.MISSED) for i in range(len(part.notes)))
    extra = (Pair(target=None, take=j, outcome=Outcome.EXTRA) for j in range(len(take.notes)))
    return Match(
        pairs=(*missed, *extra),
        time_base=TimeBase(pace=Pace.steady(1.0), slips=()),
        transposition=0,
        is_foreign=is_foreign,
        likeness=0.0,
    )
