"""Takes to judge by hand."""

from ear.assess import Assessment
from ear.notes import Part, Take, TakeNote


def exact(part: Part) -> Take:
    """The target itself as a take."""
    return Take.of(
        TakeNote(
            onset_s=part.tempos.second_at(n.onset_tick),
            length_s=part.tempos.second_at(n.end_tick) - part.tempos.second_at(n.onset_tick),
            pitch=n.pitch,
            velocity=n.velocity,
        )
        for n in part.notes
    )


def scores(a: Assessment) -> dict[str, float | None]:
    return {c.name: c.score for c in a.judgement.criteria}
