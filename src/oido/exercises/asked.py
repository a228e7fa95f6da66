"""What a free exercise asks for, as one sentence."""

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from ear.free.exercise import FreeSpec, Pitches

SWING_DIGITS = ".3g"


def asked(spec: FreeSpec | None) -> str:
    """“2 to 6 notes in each bar, on quavers; from the chord above it.” Nothing of what is written out."""
    if spec is None:
        return ""
    lines = {
        480: _("on crotchets"), 240: _("on quavers"), 160: _("on quaver triplets"), 120: _("on semiquavers"),
    }  # fmt: skip
    where = [_how_many(spec), lines[spec.grid_ticks]]
    if spec.swing != 1:
        where.append(_("swung %(ratio)s to 1") % {"ratio": format(spec.swing, SWING_DIGITS)})
    said = _("%(density_and_lines)s; %(pitches)s.") % {
        "density_and_lines": ", ".join(where), "pitches": _which(spec),
    }  # fmt: skip
    return f"{said} {_('Every second bar repeats the one before.')}" if spec.pairs_repeat else said


def _how_many(spec: FreeSpec) -> str:
    least, most = spec.least_a_bar, spec.most_a_bar
    if least and most:
        return _("%(least)d to %(most)d notes in each bar") % {"least": least, "most": most}
    if least:
        return ngettext("One note or more in each bar", "%(n)d notes or more in each bar", least) % {
            "n": least
        }
    if most:
        return ngettext("At most one note in each bar", "At most %(n)d notes in each bar", most) % {"n": most}
    return _("Any number of notes")


def _which(spec: FreeSpec) -> str:
    if spec.pitches is Pitches.CHORDS:
        return _("from the chord above it")
    if spec.pitches is Pitches.SCALE:
        return _("of %(scale)s") % {"scale": spec.scale}
    return _("on the drums named") if spec.lanes else _("any notes")
