from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0002_school'),
    ]

    operations = [
        migrations.AlterField(
            model_name='job',
            name='state',
            field=models.CharField(choices=[('waiting', 'waiting'), ('running', 'working'), ('done', 'ready'), ('failed', 'failed')], default='waiting', max_length=8),
        ),
    ]
