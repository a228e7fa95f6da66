from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("people", "0001_second_release"),
    ]

    operations = [
        migrations.AddField(
            model_name="school",
            name="staff_need_two_step",
            field=models.BooleanField(db_default=False, default=False, verbose_name="staff must use two-step sign-in"),
        ),
        migrations.AddField(
            model_name="school",
            name="max_people",
            field=models.PositiveIntegerField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name="school",
            name="max_takes",
            field=models.PositiveIntegerField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name="school",
            name="take_count",
            field=models.PositiveIntegerField(db_default=0, default=0),
        ),
    ]
