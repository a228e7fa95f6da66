"""Facts that both releases stored, as they are stored now; what cannot be read stays as it is, and its page says so."""

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


class Migration(migrations.Migration):
    dependencies = [("takes", "0001_second_release")]
    operations = [migrations.RunPython(upgrade, migrations.RunPython.noop)]
