import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ('access', '0001_initial'),
        ('access', '0002_email_changes_and_guesses'),
    ]

    dependencies = [
        ('access', '0001_second_release'),
        ('people', '0001_second_release'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='emailchange',
            name='person',
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='email_change', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='emailchange',
            name='requested_by',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='signedin',
            name='person',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='signed_in', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='signincode',
            name='made_by',
            field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='signincode',
            name='person',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sign_in_codes', to=settings.AUTH_USER_MODEL),
        ),
        migrations.AddField(
            model_name='signincode',
            name='school',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='people.school'),
        ),
        migrations.AddConstraint(
            model_name='wrongguesses',
            constraint=models.UniqueConstraint(fields=('kind', 'source'), name='guesses_once_by_source'),
        ),
    ]
