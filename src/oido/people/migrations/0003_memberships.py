import django.db.models.deletion
import django.db.models.manager
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models

import oido.people.models


def fill(apps, schema_editor):
    """Who was of a school, in a role, is a member of it now."""
    User, Membership = apps.get_model("people", "User"), apps.get_model("people", "Membership")
    Membership._base_manager.bulk_create(
        [
            Membership(school_id=school, person_id=pk, role=role, joined_at=joined)
            for pk, school, role, joined in User.objects.filter(school__isnull=False).values_list(
                "pk", "school_id", "role", "date_joined"
            )
        ],
        batch_size=500,
    )


class Migration(migrations.Migration):
    dependencies = [("people", "0002_naming_labels_rules")]

    operations = [
        migrations.AddField(
            model_name="school",
            name="time_zone",
            field=models.CharField(
                default="UTC", max_length=64, validators=[oido.people.models.check_zone], verbose_name="time zone"
            ),
        ),
        migrations.AlterField(
            model_name="school", name="name", field=models.CharField(max_length=120, verbose_name="name")
        ),
        migrations.CreateModel(
            name="Membership",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "role",
                    models.CharField(
                        choices=[("head", "Head"), ("teacher", "Teacher"), ("student", "Student")],
                        max_length=10,
                        verbose_name="role",
                    ),
                ),
                ("joined_at", models.DateTimeField(default=django.utils.timezone.now)),
                ("left_at", models.DateTimeField(null=True)),
                ("chosen_at", models.DateTimeField(default=django.utils.timezone.now)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="memberships",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "school",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="memberships", to="people.school"
                    ),
                ),
            ],
            options={
                "indexes": [models.Index(fields=["school", "role"], name="people_memb_school__d4254a_idx")],
                "constraints": [
                    models.UniqueConstraint(fields=("school", "person"), name="one_membership_in_school")
                ],
            },
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
