"""A ladder in words: of each rung what is played, how fast, how often and how well."""

from dataclasses import dataclass

from django.template.defaultfilters import floatformat
from django.utils.translation import gettext as _

from ear.notes import Hand, Part
from ear.practice.ladder import Ladder, Rung
from ear.words.phrases import describe_bars
from oido.common.readers import PAGES
from oido.exercises.pages import lanes_of


@dataclass(frozen=True, slots=True, kw_only=True)
class RungText:
    """`place` is empty where the rung's name says it already."""

    rung: Rung
    place: str
    how: str
    notes: str
    """Numbers of the notes that are played on it, as a page's script reads them."""


def describe_ladder(ladder: Ladder, part: Part) -> list[RungText]:
    """Return a description of each rung. The rungs must lie within the part's bars."""
    return [_describe_rung(rung, part) for rung in ladder.rungs]


def _describe_rung(rung: Rung, part: Part) -> RungText:
    place = ", ".join(_place(rung, part))
    bpm = part.tempos.bpm_at(part.meters.bar(rung.first_bar).start_tick) * rung.tempo_percent / 100
    how = _("at your own pace, without a wrong key") if rung.own_pace else _("at %(bpm)s (%(percent)s%%), %(needed)s of %(loops)s loops in a row with %(points)s points") % {
        "bpm": floatformat(bpm, 0), "percent": rung.tempo_percent, "needed": rung.needed_loops, "loops": rung.loops,
        "points": rung.needed,
    }  # fmt: skip
    return RungText(
        rung=rung,
        place="" if rung.name.startswith(place) else place,
        how=how,
        notes=" ".join(map(str, rung.notes_of(part))),
    )


def _place(rung: Rung, part: Part) -> list[str]:
    phrases = [describe_bars((rung.first_bar, rung.last_bar), PAGES)]
    if rung.hand:
        phrases.append(_("right hand") if rung.hand is Hand.RIGHT else _("left hand"))
    if rung.lanes:
        names = dict(lanes_of(part))
        phrases.append(" + ".join(_(names.get(lane, lane)) for lane in rung.lanes))
    if rung.moves:
        first, last = rung.moves
        phrases.append(
            _("move %(n)s") % {"n": first}
            if first == last
            else _("moves %(a)s to %(b)s") % {"a": first, "b": last}
        )
    return phrases
