import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('opening', '0001_initial'),
        ('opening', '0002_printable_texts'),
        ('opening', '0003_dismissed_steps'),
    ]

    dependencies = [
        ('opening', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='dismissedstep',
            name='person',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddConstraint(
            model_name='dismissedstep',
            constraint=models.UniqueConstraint(fields=('person', 'step'), name='one_dismissal_of_step'),
        ),
    ]
