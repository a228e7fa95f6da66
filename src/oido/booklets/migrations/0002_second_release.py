import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('booklets', '0001_initial'),
        ('booklets', '0002_plain_labels'),
    ]

    dependencies = [
        ('booklets', '0001_second_release'),
        ('exercises', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='booklet',
            name='owner',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='booklets', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='booklet',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='item',
            name='booklet',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='items', to='booklets.booklet'),
        ),
        migrations.AddField(
            model_name='item',
            name='exercise',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='in_booklets', to='exercises.exercise'),
        ),
    ]
