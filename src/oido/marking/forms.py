from dataclasses import replace
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.criteria.levels import LEVELS
from ear.errors import EarError
from ear.judging.judgement import TeacherScore
from ear.judging.rubric import MAX_FORGIVEN_MS, MAX_WEIGHT, Rubric, TeacherCriterion
from ear.judging.settings import MAX_LATENCY_MS, TakeSettings
from ear.notes import STANDARD_KIT, Kind, Part
from oido.common import problems
from oido.common.fields import offer
from oido.common.forms import FormData
from oido.common.readers import number
from oido.rubrics.labels import CRITERION_LABELS, criteria_of
from oido.takes.models import Take

MAX_WHY_LENGTH = 300
LEFT_OUT = "left out"


class ScoreForm(forms.Form):
    """A measured criterion changed, or one marked by hand: by a number, a level in words, or a checklist."""

    def __init__(self, data: FormData = None, *, criterion: TeacherCriterion | None, teacher_score: TeacherScore | None, score: float | None,
                 **more: Any) -> None:  # fmt: skip
        self.criterion = criterion
        super().__init__(data, **more)
        why = teacher_score.why if teacher_score else ""
        if criterion and criterion.items:
            self.fields["ticked"] = forms.TypedMultipleChoiceField(
                label=criterion.label, coerce=int, required=False, choices=list(enumerate(criterion.items)),
                widget=forms.CheckboxSelectMultiple, initial=list(teacher_score.ticked) if teacher_score else [],
            )  # fmt: skip
        elif criterion and criterion.steps:
            known = (
                None
                if teacher_score is None
                else LEFT_OUT
                if teacher_score.score is None
                else f"{teacher_score.score:g}"
            )
            self.fields["step"] = forms.ChoiceField(
                label=criterion.label, widget=forms.RadioSelect, initial=known,
                choices=[*((f"{s.points:g}", f"{s.name} ({number(s.points)})") for s in criterion.steps), (LEFT_OUT, _("left out of the mark"))],
            )  # fmt: skip
        else:
            self.fields["score"] = forms.FloatField(
                label=_("Score"), min_value=0, max_value=100, initial=None if score is None else round(score)
            )
        for field in self.fields.values():
            field.widget.attrs["autofocus"] = True
        self.fields["why"] = forms.CharField(
            label=pgettext_lazy("state", "Why") if criterion is None else _("Note"), max_length=MAX_WHY_LENGTH, required=criterion is None, initial=why,
        )  # fmt: skip

    def teacher_score(self) -> TeacherScore:
        c = self.cleaned_data
        if self.criterion and self.criterion.items:
            return TeacherScore(
                score=self.criterion.ticked(len(c["ticked"])), why=c["why"], ticked=tuple(sorted(c["ticked"]))
            )
        if self.criterion and self.criterion.steps:
            return TeacherScore(score=None if c["step"] == LEFT_OUT else float(c["step"]), why=c["why"])
        return TeacherScore(score=c["score"], why=c["why"])


class TryForm(forms.Form):
    """How this take would be marked by other settings."""

    level = forms.ChoiceField(label=_("Level of strictness"))
    forgiven_ms = forms.FloatField(
        label=_("Lead or lag forgiven, ms"), min_value=0, max_value=MAX_FORGIVEN_MS
    )
    latency_ms = forms.FloatField(
        label=_("Latency removed, ms"), min_value=-MAX_LATENCY_MS, max_value=MAX_LATENCY_MS
    )
    why = forms.CharField(label=_("Reason"), max_length=MAX_WHY_LENGTH, required=False)

    def __init__(
        self, data: Any = None, *, take: Take, rubric: Rubric, base: Rubric, level: str, numbers: list[int]
    ) -> None:
        """`rubric` is by which the take is marked now, `base` without what is set for it alone, `level` the
        exercise's."""
        settings = take.set_for_it
        self.base, self.base_level = base, base.level.key if base.level else level
        weights = dict(rubric.weights)
        self.take, self.numbers = take, numbers
        self.criteria = criteria_of(Kind(take.exercise.kind))
        self.own_latency_ms = take.latency_ms
        latency = take.latency_ms if settings.latency_ms is None else settings.latency_ms
        super().__init__(
            data,
            initial={
                "level": rubric.level.key if rubric.level else level, "forgiven_ms": f"{rubric.forgiven_bias_ms:g}", "latency_ms": f"{round(latency, 1):g}",
                "why": settings.why,
                **{f"weight-{name}": f"{weights.get(name, 0):g}" for name in self.criteria},
                **{f"pad-{n}": str(settings.pads.get(n, n)) for n in numbers},
            },
        )  # fmt: skip
        offer(self, "level", [(each.key, _(each.name)) for each in LEVELS.values()])
        for name in self.criteria:
            self.fields[f"weight-{name}"] = forms.FloatField(
                label=CRITERION_LABELS[name], min_value=0, max_value=MAX_WEIGHT
            )
        lanes = [(str(lane.pitches[0]), _(lane.name)) for lane in STANDARD_KIT.lanes]
        for n in numbers:
            as_sent = (str(n), _("as sent: %(name)s") % {"name": STANDARD_KIT.lane(n).name})
            self.fields[f"pad-{n}"] = forms.ChoiceField(
                label=_("number %(n)s") % {"n": n},
                choices=[as_sent, *(lane for lane in lanes if lane[0] != str(n))],
            )

    @property
    def weights(self) -> list[forms.BoundField]:
        return [self[f"weight-{name}"] for name in self.criteria]

    @property
    def pads(self) -> list[forms.BoundField]:
        return [self[f"pad-{n}"] for n in self.numbers]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if not self.errors:
            try:
                self.settings = self._settings(cleaned)
                self.settings.over(self.base)
            except EarError as problem:
                raise forms.ValidationError(problems.error_message(problem)) from problem
        return cleaned

    def _settings(self, c: dict[str, Any]) -> TakeSettings:
        """Only what differs from what holds for all."""
        weights = {name: c[f"weight-{name}"] for name in self.criteria if c[f"weight-{name}"]}
        own_latency = round(c["latency_ms"], 1) == round(self.own_latency_ms, 1)
        return replace(
            self.take.set_for_it,
            level=None if c["level"] == self.base_level else LEVELS[c["level"]],
            weights=None if weights == dict(self.base.weights) else weights,
            forgiven_ms=None if c["forgiven_ms"] == self.base.forgiven_bias_ms else c["forgiven_ms"],
            latency_ms=None if own_latency else c["latency_ms"],
            pads={n: int(c[f"pad-{n}"]) for n in self.numbers if int(c[f"pad-{n}"]) != n},
            why=c["why"],
        )


def pad_numbers(take: Take, part: Part) -> list[int]:
    """Percussion numbers that came from the instrument, to be put into other lanes; none for keyboards."""
    if not part.instrument.has_lanes:
        return []
    played = {
        number for one in (take, *take.kept_passes) for _t, status, number, velocity in one.events
        if status & 0xF0 == 0x90 and velocity
    }  # fmt: skip
    return sorted(played)


class AskAgainForm(forms.Form):
    why = forms.CharField(
        label=_("What the student reads"), max_length=400, widget=forms.Textarea(attrs={"rows": 2})
    )
