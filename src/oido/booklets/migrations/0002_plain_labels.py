from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('booklets', '0001_initial'),
    ]

    operations = [
        migrations.AlterField(
            model_name='booklet',
            name='is_shared',
            field=models.BooleanField(default=True, verbose_name='shared with colleagues'),
        ),
        migrations.AlterField(
            model_name='booklet',
            name='text',
            field=models.TextField(blank=True, max_length=4000, verbose_name='before it'),
        ),
    ]
