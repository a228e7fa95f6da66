"""A change of a sheet is of a kind."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("marking", "0011_plain_labels")]

    operations = [migrations.RenameField(model_name="sheetchange", old_name="what", new_name="kind")]
