import django.db.models.deletion
from django.db import migrations, models

RENAMED = {
    "bench.beside": "bench.siblingcomparison",
    "collection.opinion": "collection.catalogueoverride",
    "hets.mark": "hets.hetmarker",
}


def rename_in_changes(names):
    """Changes name the tables of their rows, so that they can be taken back: the names go along."""

    def run(apps, schema_editor):
        Change = apps.get_model("collection", "Change")
        for change in Change.objects.all():
            if any(row["model"] in names for row in change.rows):
                change.rows = [row | {"model": names.get(row["model"], row["model"])} for row in change.rows]
                change.save(update_fields=["rows"])

    return run


class Migration(migrations.Migration):

    dependencies = [("collection", "0006_label_threshold")]

    operations = [
        migrations.RenameModel("Opinion", "CatalogueOverride"),
        migrations.AlterField(
            model_name="catalogueoverride",
            name="collection",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="overrides", to="collection.collection"
            ),
        ),
        migrations.RunPython(
            rename_in_changes(RENAMED), rename_in_changes({new: old for old, new in RENAMED.items()})
        ),
    ]
