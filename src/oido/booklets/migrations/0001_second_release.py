from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('booklets', '0001_initial'),
        ('booklets', '0002_plain_labels'),
    ]

    dependencies = [
    ]

    operations = [
        migrations.CreateModel(
            name='Booklet',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('title', models.CharField(max_length=120, verbose_name='title')),
                ('text', models.TextField(blank=True, max_length=4000, verbose_name='before it')),
                ('is_shared', models.BooleanField(default=True, verbose_name='shared with colleagues')),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('deleted_at', models.DateTimeField(null=True)),
            ],
            options={
                'ordering': ['title', 'id'],
            },
        ),
        migrations.CreateModel(
            name='Item',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveIntegerField()),
                ('heading', models.CharField(blank=True, max_length=120, verbose_name='heading')),
                ('text', models.TextField(blank=True, max_length=4000, verbose_name='text')),
            ],
            options={
                'ordering': ['booklet', 'position', 'id'],
            },
        ),
    ]
