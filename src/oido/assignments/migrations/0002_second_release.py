import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('assignments', '0001_initial'),
        ('assignments', '0002_rubric_and_release'),
        ('assignments', '0003_school'),
        ('assignments', '0004_material'),
        ('assignments', '0005_booklets'),
        ('assignments', '0006_plain_labels'),
        ('assignments', '0007_booklet_assignment'),
    ]

    dependencies = [
        ('assignments', '0001_second_release'),
        ('booklets', '0001_second_release'),
        ('exercises', '0001_second_release'),
        ('people', '0001_second_release'),
        ('rubrics', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='arrangement',
            name='student',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='arrangements', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='arrangement',
            name='version',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='exercises.exercise'),
        ),
        migrations.AddField(
            model_name='assignment',
            name='exercise',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='assignments', to='exercises.exercise'),
        ),
        migrations.AddField(
            model_name='assignment',
            name='given_by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='assignment',
            name='rubric',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='assignments', to='rubrics.rubricversion'),
        ),
        migrations.AddField(
            model_name='assignment',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='assignment',
            name='school_class',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='assignments', to='people.schoolclass'),
        ),
        migrations.AddField(
            model_name='arrangement',
            name='assignment',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='arrangements', to='assignments.assignment'),
        ),
        migrations.AddField(
            model_name='bookletassignment',
            name='booklet',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='assigned', to='booklets.booklet'),
        ),
        migrations.AddField(
            model_name='bookletassignment',
            name='given_by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='bookletassignment',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='bookletassignment',
            name='school_class',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='booklet_assignments', to='people.schoolclass'),
        ),
        migrations.AddField(
            model_name='assignment',
            name='booklet',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='assignments', to='assignments.bookletassignment'),
        ),
        migrations.AddField(
            model_name='reminder',
            name='assignment',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reminders', to='assignments.assignment'),
        ),
        migrations.AddField(
            model_name='reminder',
            name='by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='reminder',
            name='student',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reminders', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddConstraint(
            model_name='arrangement',
            constraint=models.UniqueConstraint(fields=('assignment', 'student'), name='one_arrangement_of_student'),
        ),
        migrations.AddIndex(
            model_name='reminder',
            index=models.Index(fields=['student', '-sent_at'], name='assignments_student_615689_idx'),
        ),
    ]
