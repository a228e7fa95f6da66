from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("takes", "0003_practice_days"),
    ]

    operations = [
        migrations.AddConstraint(
            model_name="take",
            constraint=models.UniqueConstraint(fields=("student", "assignment", "number"), name="take_number_by_student"),
        ),
        migrations.RemoveConstraint(model_name="take", name="take_number_of_student"),
    ]
