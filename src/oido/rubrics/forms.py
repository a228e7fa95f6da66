"""A rubric to be written: what is measured, what is marked by hand, help, bands, the scale."""

from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy

from ear.criteria.levels import LEVELS
from ear.errors import EarError
from ear.judging.rubric import (
    MAX_BANDS,
    MAX_FLOOR,
    MAX_FORGIVEN_MS,
    MAX_HELP,
    MAX_NAME_LENGTH,
    MAX_OUT_OF,
    MAX_TEACHER_CRITERIA,
    MAX_WEIGHT,
    Band,
    CriterionLevel,
    HelpCost,
    Rubric,
    TeacherCriterion,
    key_of,
)  # fmt: skip
from ear.notes import Kind
from oido.common.fields import offer
from oido.common.problems import add_problem
from oido.rubrics.labels import CRITERION_LABELS, criteria_of

NUMBER, LEVELS_IN_WORDS, CHECKLIST = "number", "levels", "checklist"
HOW = [
    (NUMBER, gettext_lazy("a number, 0 to 100")),
    (LEVELS_IN_WORDS, gettext_lazy("levels in words")),
    (CHECKLIST, gettext_lazy("a checklist")),
]


def _weight(label: Any) -> forms.FloatField:
    return forms.FloatField(label=label, min_value=0, max_value=MAX_WEIGHT, required=False)


class TeacherCriterionForm(forms.Form):
    """A criterion that the teacher marks. An empty name takes it out."""

    key = forms.CharField(required=False, widget=forms.HiddenInput)
    label = forms.CharField(
        label=pgettext_lazy("label", "criterion"), max_length=MAX_NAME_LENGTH, required=False
    )
    weight = _weight(pgettext_lazy("label", "weight"))
    how = forms.ChoiceField(label=gettext_lazy("marked by"), choices=HOW, required=False)
    lines = forms.CharField(
        label=gettext_lazy("levels, or items to tick; one per line"), required=False, max_length=2000,
        widget=forms.Textarea(attrs={"rows": 3}),
    )  # fmt: skip

    @staticmethod
    def start(c: TeacherCriterion) -> dict[str, object]:
        lines = [f"{s.name} = {s.points:g}" for s in c.steps] or list(c.items)
        how = LEVELS_IN_WORDS if c.steps else CHECKLIST if c.items else NUMBER
        return {
            "key": c.key,
            "label": c.label,
            "weight": f"{c.weight:g}",
            "how": how,
            "lines": "\n".join(lines),
        }

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        if self.errors or not cleaned.get("label"):
            return cleaned
        if cleaned["weight"] is None:
            self.add_error("weight", _("Enter a weight."))
        lines = [line.strip() for line in cleaned["lines"].splitlines() if line.strip()]
        if cleaned["how"] != NUMBER and not lines:
            self.add_error("lines", _("One per line."))
        cleaned["steps"], cleaned["items"] = (), ()
        if cleaned["how"] == CHECKLIST:
            cleaned["items"] = tuple(lines)
        elif cleaned["how"] == LEVELS_IN_WORDS:
            cleaned["steps"] = self._steps(lines)
        return cleaned

    def _steps(self, lines: list[str]) -> tuple[CriterionLevel, ...]:
        steps = []
        for line in lines:
            name, _sign, points = line.rpartition("=")
            try:
                steps.append(CriterionLevel(name=name.strip(), points=float(points.replace(",", "."))))
            except ValueError:
                self.add_error("lines", _("Write a level and its points of 100, as in “steady = 80”: not “%(line)s”.") % {"line": line})  # fmt: skip
                break
        return tuple(steps)


class BandForm(forms.Form):
    least = forms.FloatField(label=gettext_lazy("from, %"), min_value=0, max_value=100, required=False)
    name = forms.CharField(label=gettext_lazy("band"), max_length=MAX_NAME_LENGTH, required=False)

    def clean(self) -> dict[str, object]:
        cleaned = super().clean() or {}
        if not self.errors and bool(cleaned.get("name")) != (cleaned.get("least") is not None):
            self.add_error("least", _("A band has a name and the mark from which it begins."))
        return cleaned


class HelpForm(forms.Form):
    name = forms.CharField(
        label=pgettext_lazy("label", "help given"), max_length=MAX_NAME_LENGTH, required=False
    )
    cost = forms.FloatField(label=gettext_lazy("points off"), min_value=0, max_value=100, required=False)


def _rows(form: type[forms.Form], most: int) -> Any:
    return forms.formset_factory(form, extra=2, max_num=most, validate_max=True)


TeacherCriterionRows, BandRows, HelpRows = (
    _rows(TeacherCriterionForm, MAX_TEACHER_CRITERIA),
    _rows(BandForm, MAX_BANDS),
    _rows(HelpForm, MAX_HELP),
)


def _shown(value: float | None) -> str:
    return "" if value is None else f"{value:g}"


class RubricForm(forms.Form):
    name = forms.CharField(label=pgettext_lazy("label", "Name"), max_length=120)
    level = forms.ChoiceField(label=gettext_lazy("Level of strictness"), required=False)
    forgiven_ms = forms.FloatField(
        label=gettext_lazy("Lead or lag forgiven, ms"), min_value=0, max_value=MAX_FORGIVEN_MS
    )
    beside_percent = forms.FloatField(
        label=gettext_lazy("Steady but not with the click is worth, %"), min_value=0, max_value=100, required=False,
        help_text=gettext_lazy("of a note in time with the click; empty: as the level of strictness says"),
    )  # fmt: skip
    floor_percent = forms.FloatField(
        # xgettext:no-python-format
        label=gettext_lazy("Notes earn nothing below, % right"), min_value=0, max_value=MAX_FLOOR, required=False,
        help_text=gettext_lazy("empty: as the level of strictness says (40 to 70%)"),
    )  # fmt: skip
    other_key_percent = forms.FloatField(
        label=gettext_lazy("Cost of playing in another key, % of Notes"), min_value=0, max_value=100,
        help_text=gettext_lazy("if the whole take is in another key; another octave costs nothing"),
    )  # fmt: skip
    has_ceilings = forms.BooleanField(
        label=gettext_lazy("A low score in Notes, Timing or Flow holds the mark down"), required=False,
        help_text=gettext_lazy("to 45 + 0.55 × Notes, 20 + 0.8 × Timing or 70 + 0.3 × Flow, whichever is lowest"),
    )  # fmt: skip
    out_of = forms.IntegerField(label=gettext_lazy("Marks are out of"), min_value=1, max_value=MAX_OUT_OF)
    half_points = forms.BooleanField(label=gettext_lazy("half points"), required=False)
    late_cost = forms.FloatField(
        label=gettext_lazy("Points off for each day late"), min_value=0, max_value=100,
        help_text=gettext_lazy("Only where the assignment takes points off for lateness; part days count as whole days"),
    )  # fmt: skip
    late_most = forms.FloatField(label=gettext_lazy("Most points taken off"), min_value=0, max_value=100)

    def __init__(self, data: Any = None, *, name: str, rubric: Rubric, kind: Kind) -> None:
        self.criteria = criteria_of(kind)
        weights = dict(rubric.weights)
        super().__init__(
            data,
            initial={
                "name": name, "level": rubric.level.key if rubric.level else "",
                "forgiven_ms": f"{rubric.forgiven_bias_ms:g}",
                "beside_percent": _shown(None if rubric.beside_share is None else round(100 * rubric.beside_share, 1)),
                "floor_percent": _shown(rubric.floor_percent), "has_ceilings": rubric.has_ceilings, "out_of": rubric.out_of, "half_points": rubric.half_points,
                "other_key_percent": f"{100 * rubric.other_key_share:g}", "late_cost": f"{rubric.late_cost:g}", "late_most": f"{rubric.late_most:g}",
                **{f"weight-{criterion}": f"{weights.get(criterion, 0):g}" for criterion in self.criteria},
            },
        )  # fmt: skip
        offer(self, "level", [
            ("", _("as the exercise says")), *((level.key, level.name) for level in LEVELS.values()),
        ])  # fmt: skip
        for criterion in self.criteria:
            self.fields[f"weight-{criterion}"] = _weight(CRITERION_LABELS[criterion])
        self.hand = TeacherCriterionRows(
            data, prefix="hand", initial=[TeacherCriterionForm.start(c) for c in rubric.teacher_criteria]
        )
        self.bands = BandRows(
            data, prefix="bands", initial=[{"least": f"{b.least:g}", "name": b.name} for b in rubric.bands]
        )
        self.help = HelpRows(
            data, prefix="help", initial=[{"name": h.name, "cost": f"{h.cost:g}"} for h in rubric.help]
        )

    @property
    def measured(self) -> list[forms.BoundField]:
        return [self[f"weight-{criterion}"] for criterion in self.criteria]

    def is_valid(self) -> bool:
        parts = (super().is_valid(), self.hand.is_valid(), self.bands.is_valid(), self.help.is_valid())
        if not all(parts):
            return False
        try:
            self.rubric = self._rubric()
        except EarError as problem:
            add_problem(self, problem)
            return False
        return True

    def _rubric(self) -> Rubric:
        """Return the rubric. Raise EarError if its parts do not add up."""
        c = self.cleaned_data
        keys: list[str] = []
        hand = []
        for row in (form.cleaned_data for form in self.hand if form.cleaned_data.get("label")):
            key = row["key"] if row["key"] and row["key"] not in keys else key_of(row["label"], keys)
            keys.append(key)
            hand.append(
                TeacherCriterion(
                    key=key, label=row["label"], weight=row["weight"], steps=row["steps"], items=row["items"]
                )
            )
        return Rubric(
            weights=tuple(
                (criterion, c[f"weight-{criterion}"])
                for criterion in self.criteria
                if c[f"weight-{criterion}"]
            ),
            bands=tuple(
                Band(least=row["least"], name=row["name"])
                for row in sorted(
                    (form.cleaned_data for form in self.bands if form.cleaned_data.get("name")),
                    key=lambda row: row["least"],
                )
            ),
            forgiven_bias_ms=c["forgiven_ms"],
            level=LEVELS.get(c["level"]),
            teacher_criteria=tuple(hand),
            help=tuple(
                HelpCost(name=row["name"], cost=row["cost"] or 0.0)
                for row in (form.cleaned_data for form in self.help if form.cleaned_data.get("name"))
            ),
            beside_share=None if c["beside_percent"] is None else c["beside_percent"] / 100,
            floor_percent=c["floor_percent"],
            other_key_share=c["other_key_percent"] / 100,
            has_ceilings=c["has_ceilings"],
            out_of=c["out_of"],
            half_points=c["half_points"],
            late_cost=c["late_cost"],
            late_most=c["late_most"],
        )
