"""Marks that were made before rubrics had a scale are written out of 100, to whole points."""

import math

from django.db import migrations


def write(apps, schema_editor):
    sheets = apps.get_model("marking", "MarkSheet")
    found = list(sheets.objects.filter(points=0.0).exclude(total=0.0))
    for sheet in found:
        sheet.points = math.floor(sheet.total + 0.5)
    sheets.objects.bulk_update(found, ["points"], batch_size=500)


class Migration(migrations.Migration):
    dependencies = [("marking", "0002_desk_talk_and_remarking")]
    operations = [migrations.RunPython(write, migrations.RunPython.noop)]
