"""Mark sheets: the machine's criteria with the teacher's changes over them."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from ear.marking.criteria import WorkingLine
from ear.marking.levels import Window
from ear.marking.marks import weigh
from ear.marking.rubric import DEFAULT_RUBRICS, CriterionName
from ear.notes import Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetRow:
    """One criterion. `machine` is Oido's own score, `score` what counts."""

    name: str
    label: str
    score: float | None
    machine: float | None
    weight: float
    working: tuple[WorkingLine, ...]
    why: str

    @property
    def is_changed(self) -> bool:
        return bool(self.why) or self.score != self.machine


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    rows: tuple[SheetRow, ...]
    total: float
    band: str


def criterion_label(name: str) -> str:
    return {
        "notes": _("Notes"),
        "timing": _("Timing"),
        "flow": _("Flow"),
        "dynamics": _("Dynamics"),
        "length": _("Length"),
    }[name]


def make_sheet(result: dict[str, Any], changes: dict[str, Any]) -> Sheet:
    """Put changes over a measured result and weigh it anew."""
    rubric = DEFAULT_RUBRICS[Kind(result["target"]["kind"])]
    rows = [
        (
            CriterionName(c["name"]),
            c["set_weight"],
            changes.get(c["name"], {}).get("score", c["score"]),
            tuple(WorkingLine(label=w["label"], figure=w["figure"]) for w in c["working"]),
        )
        for c in result["criteria"]
    ]
    mark = weigh(rows, rubric=rubric, window=Window(**result["window"]))
    machine = {c["name"]: c["score"] for c in result["criteria"]}
    return Sheet(
        rows=tuple(
            SheetRow(
                name=c.name.value,
                label=criterion_label(c.name.value),
                score=c.score,
                machine=machine[c.name.value],
                weight=c.weight,
                working=c.working,
                why=changes.get(c.name.value, {}).get("why", ""),
            )
            for c in mark.criteria
        ),
        total=mark.score,
        band=mark.band.name,
    )
