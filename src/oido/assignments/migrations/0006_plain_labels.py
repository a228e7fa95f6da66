from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('assignments', '0005_booklets'),
    ]

    operations = [
        migrations.AlterField(
            model_name='assignment',
            name='late',
            field=models.CharField(choices=[('taken', 'accepted'), ('costs', 'taken, with points off as the rubric says'), ('refused', 'not accepted')], default='taken', max_length=10),
        ),
    ]
