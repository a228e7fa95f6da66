import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("marking", "0003_written_marks"), ("takes", "0006_judgements")]
    operations = [
        migrations.CreateModel(
            name="Remeasuring",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("version", models.CharField(max_length=20, unique=True)),
                ("done", models.PositiveIntegerField(default=0)),
                ("takes", models.PositiveIntegerField(default=0)),
                ("failed", models.JSONField(default=list)),
                ("begun_at", models.DateTimeField(auto_now_add=True)),
                ("ended_at", models.DateTimeField(null=True)),
            ],
        ),
        migrations.CreateModel(
            name="Trial",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "judgement",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="takes.judgement"
                    ),
                ),
                (
                    "remarking",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="trials", to="marking.remarking"
                    ),
                ),
                (
                    "take",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="trials", to="takes.take"
                    ),
                ),
            ],
        ),
        migrations.AddConstraint(
            model_name="trial",
            constraint=models.UniqueConstraint(fields=("remarking", "take"), name="one_trial_of_take"),
        ),
        migrations.AddField(model_name="marksheet", name="heard", field=models.JSONField(null=True)),
        migrations.AddField(model_name="marksheet", name="is_whole", field=models.BooleanField(default=True)),
    ]  # fmt: skip
