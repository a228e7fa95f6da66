"""Facts that both releases stored, as they are stored now; what cannot be read stays as it is, and its page says so.

What a student wrote about something shown gets the name it has in `Shown`.
"""

from django.db import migrations

from ear.errors import FormatError
from ear.extraction.upgrading import upgrade_facts

CHUNK = 50


def upgrade(apps, schema_editor):
    measurements = apps.get_model("takes", "Measurement").objects
    for measurement in measurements.order_by("pk").iterator(chunk_size=CHUNK):
        try:
            facts = upgrade_facts(measurement.facts)
        except FormatError:
            continue
        if facts != measurement.facts:
            measurements.filter(pk=measurement.pk).update(facts=facts)


def name_explanations(apps, schema_editor):
    takes = apps.get_model("takes", "Take").objects
    for take in takes.filter(shown__isnull=False).only("shown").order_by("pk").iterator(chunk_size=CHUNK):
        for shown in take.shown["things"]:
            shown["explanation"] = shown.pop("said", shown.get("explanation", ""))
        takes.filter(pk=take.pk).update(shown=take.shown)


class Migration(migrations.Migration):
    dependencies = [("takes", "0001_second_release")]
    operations = [
        migrations.RunPython(upgrade, migrations.RunPython.noop),
        migrations.RunPython(name_explanations, migrations.RunPython.noop),
    ]
