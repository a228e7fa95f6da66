"""Marks of the first release get a row of their own, as they were made: see `ear.judging.first_release`."""

from django.db import migrations

from ear.errors import FormatError
from ear.extraction.codec import facts_from_json
from ear.extraction.upgrading import upgrade_facts
from ear.judging.codec import scores_to_json
from ear.judging.first_release import scores_of_first_release
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.judging.settings import TakeSettings
from ear.notes import Kind

CHUNK = 100


def fill(apps, schema_editor):
    measurements, judgements = apps.get_model("takes", "Measurement"), apps.get_model("takes", "Judgement")
    sheets = apps.get_model("marking", "MarkSheet")
    rows = measurements.objects.select_related("take__assignment__exercise", "take__assignment__rubric")
    for measurement in rows.iterator(chunk_size=CHUNK):
        take = measurement.take
        sheet = sheets.objects.select_related("rubric").filter(take=take).first()
        version = sheet.rubric if sheet else take.assignment.rubric
        try:
            facts = facts_from_json(upgrade_facts(measurement.facts))
            rubric = Rubric.from_json(version.data) if version else DEFAULT_RUBRICS[Kind(take.assignment.exercise.kind)]
            forgiven = TakeSettings.from_json(take.settings).over(rubric).forgiven_bias_ms
            scores = scores_of_first_release(measurement.facts, facts, forgiven_most_ms=forgiven)
        except (FormatError, KeyError, TypeError, ValueError):
            # Its page says that it cannot be read, and measures it again.
            continue
        take.judgement = judgements.objects.create(
            measurement=measurement, rubric=version, version=scores.version, scores=scores_to_json(scores)
        )
        take.save(update_fields=["judgement"])
        if sheet is not None:
            heard = next((n for n in measurement.facts["ear_notes"] if not n["praise"]), None)
            sheet.heard = heard and {
                "code": heard["kind"], "size": heard["size"], "unit": heard["unit"], "bars": heard["bars"],
                "values": {"teacher": heard["teacher"], "student": heard["student"]},
            }  # fmt: skip
            known = sheet.changes
            sheet.is_whole = all(c["key"] in known for c in (version.data["hand"] if version else ()))
            sheet.save(update_fields=["heard", "is_whole"])


class Migration(migrations.Migration):
    dependencies = [("marking", "0004_trials")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
