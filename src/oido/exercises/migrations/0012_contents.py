"""What was read in an imported file is its contents."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("exercises", "0011_plain_labels")]

    operations = [migrations.RenameField(model_name="importedfile", old_name="told", new_name="contents")]
