import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """The table of students in classes gets a column: when they joined. Of those who are there nothing is known, so all
    of their work counts."""

    dependencies = [
        ("people", "0006_erased_and_keeping"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Attendance",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("schoolclass", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="attendances", to="people.schoolclass")),
                        ("user", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="attendances", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={"db_table": "people_schoolclass_students"},
                ),
                migrations.AlterField(
                    model_name="schoolclass",
                    name="students",
                    field=models.ManyToManyField(blank=True, related_name="classes_attended", through="people.Attendance", to=settings.AUTH_USER_MODEL),
                ),
            ],
        ),
        migrations.AddField(
            model_name="attendance",
            name="joined_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.AlterField(
            model_name="attendance",
            name="joined_at",
            field=models.DateTimeField(default=django.utils.timezone.now, null=True),
        ),
        migrations.AddConstraint(
            model_name="attendance",
            constraint=models.UniqueConstraint(fields=("schoolclass", "user"), name="one_attendance_of_student"),
        ),
    ]
