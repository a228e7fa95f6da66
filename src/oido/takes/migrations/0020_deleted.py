"""A take that was deleted says when."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("takes", "0019_handed_in_index")]

    operations = [migrations.RenameField(model_name="take", old_name="thrown_away_at", new_name="deleted_at")]
