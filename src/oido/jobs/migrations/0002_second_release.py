import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('jobs', '0001_jobs'),
        ('jobs', '0002_school'),
        ('jobs', '0003_plain_labels'),
    ]

    dependencies = [
        ('jobs', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='job',
            name='owner',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='jobs', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='job',
            name='school',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='+', to='people.school'),
        ),
        migrations.AddIndex(
            model_name='job',
            index=models.Index(fields=['state', 'beat_at'], name='jobs_job_state_c24a61_idx'),
        ),
        migrations.AddIndex(
            model_name='job',
            index=models.Index(fields=['key', 'state'], name='jobs_job_key_0cd3ac_idx'),
        ),
    ]
