"""How the velocities were shaped, against how they are written."""

import numpy as np
from numpy.typing import NDArray

from ear.measuring.figures import Figure, WhyNot, figure, no_figure, rank_correlation
from ear.measuring.linked import Ints, Linked
from ear.measuring.measures import Dynamics
from ear.notes import KitMap, Part, Take

MIN_NOTES = 6
ACCENT_ABOVE_MEDIAN = 12
"""Velocity steps over the middle one of its voice from which a note is an accent."""
MIN_SHAPE_SD = 6.0
"""A part whose velocities vary less than this is written flat."""


def measure_dynamics(part: Part, take: Take, linked: Linked, *, kit: KitMap) -> Dynamics:
    """Measure accents, shape, evenness and level by velocity, 1 to 127.

    Figures that cannot be measured are missing with a reason.
    """
    why_not: WhyNot | None = None
    if not take.has_touch:
        why_not = WhyNot.NO_TOUCH
    elif len(linked) < MIN_NOTES:
        why_not = WhyNot.FEW_NOTES
    if why_not:
        no = no_figure(why_not)
        return Dynamics(
            level=no, range_ratio=no, contour=no, accent_contrast=no,
            target_accent_contrast=no, evenness=no,
        )  # fmt: skip
    written, played = linked.target_velocity, linked.take_velocity
    accents = accented(part, kit=kit)[linked.target]
    return Dynamics(
        level=figure(float(np.mean(played - written))),
        range_ratio=_range_ratio(written, played),
        contour=_contour(written, played),
        accent_contrast=_contrast(played, accents),
        target_accent_contrast=_contrast(written, accents),
        evenness=_evenness(written, played, voices(part, kit=kit)[linked.target]),
    )


def voices(part: Part, *, kit: KitMap) -> Ints:
    """Return, for each note of a part, the number of its hand or of its lane."""
    if part.instrument.has_key:
        return part.hand_numbers
    lanes: Ints = kit.folds[part.pitches]
    return lanes


def accented(part: Part, *, kit: KitMap) -> NDArray[np.bool_]:
    """Return which notes of a part are accents: those that stand out of their voice."""
    voice, written = voices(part, kit=kit), part.velocities
    flags = np.zeros(len(written), dtype=bool)
    for own_voice in set(voice.tolist()):
        here = voice == own_voice
        flags |= here & (written >= np.median(written[here]) + ACCENT_ABOVE_MEDIAN)
    return flags


def _contrast(velocity: Ints, accented: NDArray[np.bool_]) -> Figure:
    if not accented.any() or accented.all():
        return no_figure(WhyNot.NO_ACCENTS)
    return figure(float(velocity[accented].mean() - velocity[~accented].mean()))


def _range_ratio(written: Ints, played: Ints) -> Figure:
    if float(written.std()) < MIN_SHAPE_SD:
        return no_figure(WhyNot.WRITTEN_FLAT)
    return figure(float(played.std() / written.std()))


def _contour(written: Ints, played: Ints) -> Figure:
    if float(written.std()) < MIN_SHAPE_SD:
        return no_figure(WhyNot.WRITTEN_FLAT)
    if len(set(played.tolist())) < 2:
        return figure(0.0)
    return figure(rank_correlation(written.astype(float), played.astype(float)))


def _evenness(written: Ints, played: Ints, lane: Ints) -> Figure:
    """Root mean variance within groups of one lane and one written velocity."""
    _, number, count = np.unique(lane * 128 + written, return_inverse=True, return_counts=True)
    mean = np.bincount(number, played) / count
    squares = float(((played - mean[number]) ** 2).sum())
    degrees = len(played) - len(count)
    if degrees < MIN_NOTES:
        return no_figure(WhyNot.FEW_ALIKE)
    return figure(float(np.sqrt(squares / degrees)))
