from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("people", "0003_memberships")]

    operations = [
        migrations.RemoveField(model_name="user", name="school"),
        migrations.RemoveField(model_name="user", name="role"),
    ]
