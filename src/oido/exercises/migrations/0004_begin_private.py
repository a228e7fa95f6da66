from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("exercises", "0003_ready_made")]

    operations = [
        migrations.AlterField(
            model_name="exercise",
            name="is_shared",
            field=models.BooleanField(default=False, verbose_name="shared with colleagues"),
        ),
    ]
