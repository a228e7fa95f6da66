import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('exercises', '0001_initial'),
        ('exercises', '0002_labels_rules_imports'),
        ('exercises', '0003_strictness'),
        ('exercises', '0004_school'),
        ('exercises', '0005_material'),
        ('exercises', '0006_tasks'),
        ('exercises', '0007_accepted'),
        ('exercises', '0008_showing'),
        ('exercises', '0009_opened_apart'),
        ('exercises', '0010_begun'),
        ('exercises', '0011_plain_labels'),
        ('exercises', '0012_contents'),
    ]

    dependencies = [
        ('exercises', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='exercise',
            name='owner',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='exercises', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='exercise',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='importedfile',
            name='owner',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='importedfile',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='tag',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='exercise',
            name='tags',
            field=models.ManyToManyField(blank=True, related_name='exercises', to='exercises.tag'),
        ),
        migrations.AddField(
            model_name='targetpart',
            name='exercise',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='exercises.exercise'),
        ),
        migrations.AddField(
            model_name='partsound',
            name='part',
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='sound', to='exercises.targetpart'),
        ),
        migrations.AddField(
            model_name='exercise',
            name='part',
            field=models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='current_of', to='exercises.targetpart'),
        ),
        migrations.AddField(
            model_name='exercise',
            name='variation_of',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='variations', to='exercises.targetpart'),
        ),
        migrations.AddConstraint(
            model_name='tag',
            constraint=models.UniqueConstraint(fields=('school', 'name'), name='tag_name_in_school'),
        ),
        migrations.AddConstraint(
            model_name='targetpart',
            constraint=models.UniqueConstraint(fields=('exercise', 'number'), name='part_number_in_exercise'),
        ),
        migrations.AddIndex(
            model_name='exercise',
            index=models.Index(fields=['school', 'deleted_at', 'retired_at', 'title'], name='exercises_e_school__b3ba20_idx'),
        ),
    ]
