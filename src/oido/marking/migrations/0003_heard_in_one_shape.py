"""The ear notes that lists show, as they are stored now."""

from django.db import migrations

from ear.errors import FormatError
from ear.extraction.upgrading import upgrade_finding

CHUNK = 500


def upgrade(apps, schema_editor):
    sheets = apps.get_model("marking", "MarkSheet").objects
    for sheet in sheets.exclude(heard__isnull=True).order_by("pk").iterator(chunk_size=CHUNK):
        try:
            heard = upgrade_finding(sheet.heard)
        except (FormatError, KeyError, TypeError, ValueError):
            heard = None
        if heard != sheet.heard:
            sheets.filter(pk=sheet.pk).update(heard=heard)


class Migration(migrations.Migration):
    dependencies = [("marking", "0002_second_release")]
    operations = [migrations.RunPython(upgrade, migrations.RunPython.noop)]
