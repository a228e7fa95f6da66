import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('marking', '0001_initial'),
        ('marking', '0002_desk_talk_and_remarking'),
        ('marking', '0003_written_marks'),
        ('marking', '0004_trials'),
        ('marking', '0005_marks_of_first_release'),
        ('marking', '0006_rubric_stands_with_judgement'),
        ('marking', '0007_school'),
        ('marking', '0008_material'),
        ('marking', '0009_measured'),
        ('marking', '0010_lateness_and_undo'),
        ('marking', '0011_plain_labels'),
        ('marking', '0012_kind'),
    ]

    dependencies = [
        ('assignments', '0002_second_release'),
        ('marking', '0001_second_release'),
        ('people', '0001_second_release'),
        ('rubrics', '0001_second_release'),
        ('takes', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='marksheet',
            name='released_by',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='marksheet',
            name='take',
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='sheet', to='takes.take'),
        ),
        migrations.AddField(
            model_name='phrase',
            name='owner',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='phrases', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='phrase',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='remark',
            name='author',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='remarks', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='remark',
            name='take',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='remarks', to='takes.take'),
        ),
        migrations.AddField(
            model_name='remarking',
            name='assignment',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='remarkings', to='assignments.assignment'),
        ),
        migrations.AddField(
            model_name='remarking',
            name='begun_by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='remarking',
            name='rubric',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='rubrics.rubricversion'),
        ),
        migrations.AddField(
            model_name='reply',
            name='author',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='reply',
            name='take',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='replies', to='takes.take'),
        ),
        migrations.AddField(
            model_name='sheetchange',
            name='by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='sheetchange',
            name='sheet',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='history', to='marking.marksheet'),
        ),
        migrations.AddField(
            model_name='sheetchange',
            name='undoes',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='marking.sheetchange'),
        ),
        migrations.AddField(
            model_name='trial',
            name='judgement',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='takes.judgement'),
        ),
        migrations.AddField(
            model_name='trial',
            name='remarking',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='trials', to='marking.remarking'),
        ),
        migrations.AddField(
            model_name='trial',
            name='take',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='trials', to='takes.take'),
        ),
        migrations.AddConstraint(
            model_name='trial',
            constraint=models.UniqueConstraint(fields=('remarking', 'take'), name='one_trial_of_take'),
        ),
    ]
