import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('access', '0001_initial'),
        ('access', '0002_email_changes_and_guesses'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='EmailChange',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('address', models.EmailField(blank=True, max_length=254)),
                ('old_address', models.EmailField(blank=True, max_length=254)),
                ('token_hash', models.CharField(blank=True, db_index=True, max_length=64)),
                ('requested_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('ends_at', models.DateTimeField()),
            ],
        ),
        migrations.CreateModel(
            name='SignedIn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('session_key', models.CharField(max_length=40, unique=True)),
                ('browser', models.CharField(blank=True, max_length=200)),
                ('address', models.GenericIPAddressField(null=True)),
                ('begun_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('seen_at', models.DateTimeField(default=django.utils.timezone.now)),
            ],
            options={
                'ordering': ['-seen_at'],
            },
        ),
        migrations.CreateModel(
            name='SignInCode',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('code_hash', models.CharField(max_length=64, unique=True)),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('ends_at', models.DateTimeField()),
                ('used_at', models.DateTimeField(null=True)),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='WrongGuesses',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=20)),
                ('source', models.CharField(max_length=60)),
                ('count', models.PositiveIntegerField(default=0)),
                ('last_at', models.DateTimeField(default=django.utils.timezone.now)),
            ],
        ),
    ]
