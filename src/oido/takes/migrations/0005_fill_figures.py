"""Figures of takes that were measured before they were kept."""

from django.db import migrations

from ear.errors import FormatError
from ear.extraction.codec import facts_from_json
from ear.extraction.upgrading import upgrade_facts
from ear.progress.standings import take_figures


def fill(apps, schema_editor):
    measurements = apps.get_model("takes", "Measurement")
    for measurement in measurements.objects.select_related("take__assignment__exercise").iterator(chunk_size=200):
        try:
            facts = facts_from_json(upgrade_facts(measurement.result))
        except FormatError:
            # Its page says so, and measures it again.
            continue
        over, under = map(int, facts.target.meter.split("/"))
        figures = take_figures(
            facts,
            asked_bpm=float(measurement.take.assignment.exercise.tempo_bpm),
            quarters=facts.target.bars * over * 4 / under,
        )
        measurement.figures = figures.to_json()
        measurement.save(update_fields=["figures"])


class Migration(migrations.Migration):
    dependencies = [("takes", "0004_measurement_figures")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
