"""What is shown and explained as part of a mark: two checklists beside the rubric's own criteria."""

from collections.abc import Callable
from dataclasses import replace

from ear.judging.judgement import TeacherScore
from ear.judging.rubric import TEACHER_PREFIX, Rubric, TeacherCriterion
from ear.practice.showing import Showing, Shown

SHOWN, EXPLAINED = f"{TEACHER_PREFIX}shown", f"{TEACHER_PREFIX}explained"
"""Keys of the two: what was done in the copy, ticked by itself, and what was said of it, read by a teacher."""


def with_showing(
    rubric: Rubric, showing: Showing, *, name: Callable[[Shown], str], labels: tuple[str, str]
) -> Rubric:
    """Return the rubric with what was to be shown as so many per cent of the whole, each thing worth as much as
    the next, shown or explained; what it had itself shares the rest as before.

    Where nothing is left, it has no other criteria and no ceilings.
    """
    explained = showing.to_explain
    each = showing.percent / (len(showing.things) + len(explained))
    own = [
        TeacherCriterion(key=key, label=label, weight=each * len(things), items=tuple(map(name, things)))
        for key, label, things in zip((SHOWN, EXPLAINED), labels, (showing.things, explained), strict=True)
        if things
    ]
    rest = 100 - showing.percent
    if not rest:
        return replace(rubric, weights=(), teacher_criteria=tuple(own), has_ceilings=False)
    scale = rest / sum((*(w for _, w in rubric.weights), *(c.weight for c in rubric.teacher_criteria)))
    return replace(
        rubric,
        weights=tuple((criterion, weight * scale) for criterion, weight in rubric.weights),
        teacher_criteria=(*(replace(c, weight=c.weight * scale) for c in rubric.teacher_criteria), *own),
    )


def measured_by_itself(showing: Showing) -> TeacherScore:
    """Return the score of the first checklist as the copy fills it in."""
    return TeacherScore(score=100.0 * len(showing.ticked) / len(showing.things), ticked=showing.ticked)
