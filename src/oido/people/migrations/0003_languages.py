from django.db import migrations, models

CHOICES = [("en-gb", "British English"), ("en-us", "American English"), ("es", "Español")]


class Migration(migrations.Migration):

    dependencies = [("people", "0002_two_step_and_quotas")]

    operations = [
        migrations.AddField(
            model_name="school",
            name="language",
            field=models.CharField(
                choices=CHOICES, db_default="en-gb", default="en-gb", max_length=10, verbose_name="language"
            ),
        ),
        migrations.AddField(
            model_name="user",
            name="language",
            field=models.CharField(
                blank=True, choices=CHOICES, db_default="", default="", max_length=10, verbose_name="language"
            ),
        ),
    ]
