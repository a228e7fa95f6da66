import django.core.validators
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('people', '0007_attendance'),
    ]

    operations = [
        migrations.AlterField(
            model_name='school',
            name='keep_months',
            field=models.PositiveSmallIntegerField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(240)], verbose_name='months to keep takes after the term'),
        ),
    ]
