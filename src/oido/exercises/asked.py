"""What a free exercise asks for, in sentences."""

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from ear.free.exercise import FreeSpec, Pitches
from oido.common.readers import write_numeral

SWING_DIGITS = ".3g"


def asked(spec: FreeSpec | None) -> str:
    """Return “Play 2 to 6 notes in each bar. Place them on quavers. …”; empty for a part that is written out."""
    if spec is None:
        return ""
    places = {
        480: _("Place them on crotchets."),
        240: _("Place them on quavers."),
        160: _("Place them on quaver triplets."),
        120: _("Place them on semiquavers."),
    }
    sentences = [_how_many(spec), places[spec.grid_ticks]]
    if spec.swing != 1:
        sentences.append(
            _("Swing them %(ratio)s to 1.") % {"ratio": write_numeral(format(spec.swing, SWING_DIGITS))}
        )
    sentences.append(_which(spec))
    if spec.pairs_repeat:
        sentences.append(_("Make every second bar repeat the one before."))
    return " ".join(sentences)


def _how_many(spec: FreeSpec) -> str:
    least, most = spec.least_a_bar, spec.most_a_bar
    if least and most:
        return _("Play %(least)d to %(most)d notes in each bar.") % {"least": least, "most": most}
    if least:
        return ngettext(
            "Play at least one note in each bar.", "Play at least %(n)d notes in each bar.", least
        ) % {"n": least}
    if most:
        return ngettext(
            "Play at most one note in each bar.", "Play at most %(n)d notes in each bar.", most
        ) % {"n": most}
    return _("Play any number of notes.")


def _which(spec: FreeSpec) -> str:
    if spec.pitches is Pitches.CHORDS:
        return _("Choose them from the chord above the music.")
    if spec.pitches is Pitches.SCALE:
        tonic, _space, mode = spec.scale.partition(" ")
        return _("Choose them from %(scale)s.") % {"scale": f"{tonic} {_(mode)}".strip()}
    return _("Use the drums named.") if spec.lanes else _("Choose any notes.")
