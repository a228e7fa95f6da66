from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('assignments', '0001_initial'),
        ('assignments', '0002_rubric_and_release'),
        ('assignments', '0003_school'),
        ('assignments', '0004_material'),
        ('assignments', '0005_booklets'),
        ('assignments', '0006_plain_labels'),
        ('assignments', '0007_booklet_assignment'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Arrangement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('is_given', models.BooleanField(default=False)),
                ('excused_at', models.DateTimeField(null=True)),
                ('excused_why', models.CharField(blank=True, max_length=200)),
                ('due_at', models.DateTimeField(null=True)),
                ('attempts', models.PositiveSmallIntegerField(null=True)),
                ('slower_percent', models.PositiveSmallIntegerField(null=True)),
            ],
        ),
        migrations.CreateModel(
            name='Assignment',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('is_for_all', models.BooleanField(default=True)),
                ('given_at', models.DateTimeField()),
                ('opens_at', models.DateTimeField(null=True)),
                ('due_at', models.DateTimeField()),
                ('late', models.CharField(choices=[('taken', 'accepted'), ('costs', 'taken, with points off as the rubric says'), ('refused', 'not accepted')], default='taken', max_length=10)),
                ('attempts', models.PositiveSmallIntegerField(null=True)),
                ('slower_percent', models.PositiveSmallIntegerField(null=True)),
                ('faster_percent', models.PositiveSmallIntegerField(null=True)),
                ('seen', models.CharField(choices=[('reading', 'what Oido heard; the mark once it is released'), ('at-once', 'everything, as soon as they hand in'), ('nothing', 'nothing until the mark is released')], default='reading', max_length=10)),
                ('closed_at', models.DateTimeField(null=True)),
                ('place', models.PositiveIntegerField(default=0)),
                ('withdrawn_at', models.DateTimeField(null=True)),
            ],
            options={
                'ordering': ['due_at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='BookletAssignment',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('given_at', models.DateTimeField()),
            ],
            options={
                'ordering': ['-given_at'],
            },
        ),
        migrations.CreateModel(
            name='Reminder',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sent_at', models.DateTimeField()),
            ],
            options={
                'ordering': ['-sent_at'],
            },
        ),
    ]
