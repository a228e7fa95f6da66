import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('bench', '0001_initial'),
        ('bench', '0002_history'),
    ]

    dependencies = [
        ('bench', '0001_second_release'),
        ('exercises', '0001_second_release'),
    ]

    operations = [
        migrations.AddField(
            model_name='draft',
            name='exercise',
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='draft', to='exercises.exercise'),
        ),
        migrations.AddField(
            model_name='draftstate',
            name='history',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='states', to='bench.draft'),
        ),
        migrations.AddConstraint(
            model_name='draftstate',
            constraint=models.UniqueConstraint(fields=('history', 'number'), name='state_number_in_draft'),
        ),
    ]
