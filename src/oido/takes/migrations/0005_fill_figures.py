"""Figures of takes that were measured before they were kept."""

from django.db import migrations

from ear.progress.standings import take_figures


def fill(apps, schema_editor):
    measurements = apps.get_model("takes", "Measurement")
    for measurement in measurements.objects.select_related("take__assignment__exercise").iterator(chunk_size=200):
        target = measurement.result["target"]
        over, under = map(int, target["meter"].split("/"))
        figures = take_figures(
            measurement.result,
            asked_bpm=float(measurement.take.assignment.exercise.tempo_bpm),
            quarters=target["bars"] * over * 4 / under,
        )
        measurement.figures = figures.to_json()
        measurement.save(update_fields=["figures"])


class Migration(migrations.Migration):
    dependencies = [("takes", "0004_measurement_figures")]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
