from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [("people", "0003_languages")]

    operations = [
        migrations.AddField(
            model_name="user",
            name="tours_seen",
            field=models.CharField(blank=True, db_default="", default="", max_length=60),
        ),
    ]
