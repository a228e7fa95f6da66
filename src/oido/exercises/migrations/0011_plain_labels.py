from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('exercises', '0010_begun'),
    ]

    operations = [
        migrations.AlterField(
            model_name='exercise',
            name='is_shared',
            field=models.BooleanField(default=True, verbose_name='shared with colleagues'),
        ),
    ]
