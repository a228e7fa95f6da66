import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('post', '0001_initial'),
        ('post', '0002_email'),
    ]

    dependencies = [
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Email',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('to', models.EmailField(max_length=254)),
                ('purpose', models.CharField(max_length=20)),
                ('subject', models.CharField(max_length=200)),
                ('body', models.TextField()),
                ('is_secret', models.BooleanField(default=False)),
                ('state', models.CharField(choices=[('waiting', 'waiting'), ('sent', 'sent'), ('failed', 'could not be sent')], default='waiting', max_length=8)),
                ('problem', models.CharField(blank=True, max_length=300)),
                ('written_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('sent_at', models.DateTimeField(null=True)),
                ('person', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('school', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school')),
            ],
            options={
                'ordering': ['-written_at', '-pk'],
                'indexes': [models.Index(fields=['school', '-written_at'], name='post_email_school__b3e4f2_idx'), models.Index(fields=['person', 'purpose'], name='post_email_person__4449c2_idx')],
            },
        ),
    ]
