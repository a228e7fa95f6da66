import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('gradebook', '0001_initial'),
    ]

    dependencies = [
        ('gradebook', '0001_second_release'),
        ('leaving', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='column',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddField(
            model_name='column',
            name='school_class',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='columns', to='people.schoolclass'),
        ),
        migrations.AddField(
            model_name='entry',
            name='column',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='entries', to='gradebook.column'),
        ),
        migrations.AddField(
            model_name='entry',
            name='student',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='entries', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='entrychange',
            name='by',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='entrychange',
            name='column',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='changes', to='gradebook.column'),
        ),
        migrations.AddField(
            model_name='entrychange',
            name='student',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='reporttext',
            name='school_class',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='texts', to='people.schoolclass'),
        ),
        migrations.AddField(
            model_name='reporttext',
            name='student',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='texts', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='reporttext',
            name='term',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='+', to='leaving.term'),
        ),
        migrations.AddConstraint(
            model_name='entry',
            constraint=models.UniqueConstraint(fields=('column', 'student'), name='one_entry_of_student'),
        ),
        migrations.AddConstraint(
            model_name='reporttext',
            constraint=models.UniqueConstraint(fields=('school_class', 'term', 'student'), name='one_text_of_term'),
        ),
    ]
