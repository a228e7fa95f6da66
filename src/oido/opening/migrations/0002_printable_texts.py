"""Control characters go from all texts that are stored already: spreadsheets and MusicXML could not be written with them."""

import json

from django.db import migrations, models

from ear.formats.characters import without_control_characters

IN_TEXT = r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]"
IN_JSON = r"\\u00(0[0-8bcef]|1[0-9a-f]|7f|[89][0-9a-f])|\\[bf]|" + IN_TEXT
"""As Python escapes them. What is found is looked at once more."""
WITHOUT_TEXTS = {"events", "facts", "scores", "figures", "sum", "pads", "kit_pads", "failed"}
"""Numbers, in large numbers: nobody types into them."""
APPS = (
    "access", "assignments", "audit", "bench", "booklets", "exercises", "gradebook", "jobs", "leaving", "marking", "people",
    "post", "roster", "rubrics", "takes",
)  # fmt: skip


def cleaned(value):
    """Plain values with their texts made printable."""
    if isinstance(value, str):
        return without_control_characters(value)
    if isinstance(value, list):
        return [cleaned(one) for one in value]
    if isinstance(value, dict):
        return {without_control_characters(key): cleaned(one) for key, one in value.items()}
    return value


def clean_texts(apps, schema_editor):
    for label in APPS:
        for model in apps.get_app_config(label).get_models():
            for field in model._meta.local_concrete_fields:
                clean_field(model, field)


def clean_field(model, field):
    is_json = isinstance(field, models.JSONField)
    if field.primary_key or field.is_relation or field.name in WITHOUT_TEXTS:
        return
    if not is_json and not isinstance(field, models.CharField | models.TextField):
        return
    column = f"`{model._meta.db_table}`.`{field.column}` REGEXP %s"
    rows = model._base_manager.order_by().extra(where=[column], params=[IN_JSON if is_json else IN_TEXT])
    for key, value in list(rows.values_list("pk", field.attname)):
        new = cleaned(value)
        if json.dumps(new) != json.dumps(value):
            model._base_manager.filter(pk=key).update(**{field.attname: new})


class Migration(migrations.Migration):
    dependencies = [
        ("opening", "0001_initial"),
        ("access", "0002_email_changes_and_guesses"),
        ("assignments", "0005_booklets"),
        ("audit", "0001_initial"),
        ("bench", "0002_history"),
        ("booklets", "0001_initial"),
        ("exercises", "0010_begun"),
        ("gradebook", "0001_initial"),
        ("jobs", "0002_school"),
        ("leaving", "0001_initial"),
        ("marking", "0009_measured"),
        ("people", "0006_erased_and_keeping"),
        ("post", "0001_initial"),
        ("roster", "0002_lines_for_a_head"),
        ("rubrics", "0003_school"),
        ("takes", "0017_measure_after"),
    ]

    operations = [migrations.RunPython(clean_texts, migrations.RunPython.noop)]
