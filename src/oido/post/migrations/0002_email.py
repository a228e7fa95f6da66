"""What Oido sends is an e-mail."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("post", "0001_initial")]

    operations = [
        migrations.RenameModel(old_name="Letter", new_name="Email"),
        migrations.RenameIndex(
            model_name='email',
            new_name='post_email_school__b3e4f2_idx',
            old_name='post_letter_school__6476e1_idx',
        ),
        migrations.RenameIndex(
            model_name='email',
            new_name='post_email_person__4449c2_idx',
            old_name='post_letter_person__817522_idx',
        ),
    ]
