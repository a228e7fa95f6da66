from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('marking', '0010_lateness_and_undo'),
    ]

    operations = [
        migrations.AlterField(
            model_name='remarking',
            name='state',
            field=models.CharField(choices=[('trying', 'trial running'), ('tried', 'tried'), ('keeping', 'saving'), ('kept', 'saved'), ('dropped', 'discarded'), ('failed', 'failed')], default='trying', max_length=10),
        ),
        migrations.AlterField(
            model_name='sheetchange',
            name='what',
            field=models.CharField(choices=[('score', 'changed'), ('help', 'help noted'), ('settings', 'marked with its own settings'), ('measured', 'a bar measured again'), ('accepted', 'accepted'), ('released', 'released'), ('asked', 'another take asked for'), ('rubric', 'marked by another rubric'), ('saying', 'changes to notes or bars'), ('undone', 'undid')], max_length=10),
        ),
    ]
