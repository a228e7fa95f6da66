from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("takes", "0020_deleted")]

    operations = [migrations.RenameField("rungclimbed", "met_at", "passed_at")]
