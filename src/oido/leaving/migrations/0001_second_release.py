import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('leaving', '0001_initial'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Erasure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('receipt', models.CharField(max_length=20, unique=True)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('went', models.JSONField(default=dict)),
            ],
            options={
                'ordering': ['-at'],
            },
        ),
        migrations.CreateModel(
            name='Term',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60, verbose_name='name')),
                ('begins_on', models.DateField(verbose_name='begins')),
                ('ends_on', models.DateField(verbose_name='ends')),
            ],
            options={
                'ordering': ['-begins_on'],
            },
        ),
    ]
