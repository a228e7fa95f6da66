"""How the velocities were shaped, against how they are written."""

import numpy as np
from numpy.typing import NDArray

from ear.measuring.figures import Figure, figure, no_figure, rank_correlation
from ear.measuring.linked import Ints, Linked
from ear.measuring.measures import Dynamics
from ear.notes import Kind, KitMap, Part, Take

LEAST_NOTES = 6
ACCENT_ABOVE_MEDIAN = 12
"""Velocity steps over the middle one of its lane or part from which a note is an accent."""
SHAPE_LEAST_SD = 6.0
"""A part whose velocities vary less than this is written flat."""
NO_TOUCH = "the source has no touch"


def measure_dynamics(part: Part, take: Take, linked: Linked, *, kit: KitMap) -> Dynamics:
    why_not = None
    if not take.has_touch:
        why_not = NO_TOUCH
    elif len(linked) < LEAST_NOTES:
        why_not = f"fewer than {LEAST_NOTES} notes were matched"
    if why_not:
        no = no_figure(why_not)
        return Dynamics(
            level=no, range_ratio=no, contour=no, accent_contrast=no,
            target_accent_contrast=no, evenness=no,
        )  # fmt: skip
    written, played = linked.target_velocity, linked.take_velocity
    lane = _lanes(part, linked, kit=kit)
    accented = _accented(written, lane)
    return Dynamics(
        level=figure(float(np.mean(played - written))),
        range_ratio=_range_ratio(written, played),
        contour=_contour(written, played),
        accent_contrast=_contrast(played, accented),
        target_accent_contrast=_contrast(written, accented),
        evenness=_evenness(written, played, lane),
    )


def _lanes(part: Part, linked: Linked, *, kit: KitMap) -> Ints:
    if part.kind is Kind.KEYBOARD:
        return part.hand_numbers[linked.target]
    lanes: Ints = kit.folds[part.pitches[linked.target]]
    return lanes


def _accented(written: Ints, lane: Ints) -> NDArray[np.bool_]:
    found = np.zeros(len(written), dtype=bool)
    for one in set(lane.tolist()):
        here = lane == one
        found |= here & (written >= np.median(written[here]) + ACCENT_ABOVE_MEDIAN)
    return found


def _contrast(velocity: Ints, accented: NDArray[np.bool_]) -> Figure:
    if not accented.any() or accented.all():
        return no_figure("the part writes no accents")
    return figure(float(velocity[accented].mean() - velocity[~accented].mean()))


def _range_ratio(written: Ints, played: Ints) -> Figure:
    if float(written.std()) < SHAPE_LEAST_SD:
        return no_figure("the part is written at one strength")
    return figure(float(played.std() / written.std()))


def _contour(written: Ints, played: Ints) -> Figure:
    if float(written.std()) < SHAPE_LEAST_SD:
        return no_figure("the part is written at one strength")
    if len(set(played.tolist())) < 2:
        return figure(0.0)
    return figure(rank_correlation(written.astype(float), played.astype(float)))


def _evenness(written: Ints, played: Ints, lane: Ints) -> Figure:
    """Root mean variance within groups of one lane and one written velocity."""
    _, number, count = np.unique(lane * 128 + written, return_inverse=True, return_counts=True)
    mean = np.bincount(number, played) / count
    squares = float(((played - mean[number]) ** 2).sum())
    degrees = len(played) - len(count)
    if degrees < LEAST_NOTES:
        return no_figure("too few notes are written alike")
    return figure(float(np.sqrt(squares / degrees)))
