import django.utils.timezone
from django.db import migrations, models
from django.utils.text import slugify


def give_keys(apps, schema_editor):
    """After the name, with a number where another has it: the oldest keeps the plain one."""
    Collection, taken = apps.get_model("collection", "Collection"), set()
    for collection in Collection.objects.order_by("pk"):
        plain = key = slugify(collection.name)[:50] or "collection"
        number = 1
        while key in taken:
            number += 1
            key = f"{plain}-{number}"
        taken.add(key)
        collection.key = key
        collection.save(update_fields=["key"])


def members_are_keepers(apps, schema_editor):
    apps.get_model("collection", "Membership").objects.filter(role="member").update(role="keeper")


def keepers_are_members(apps, schema_editor):
    apps.get_model("collection", "Membership").objects.exclude(role="owner").update(role="member")


class Migration(migrations.Migration):

    dependencies = [("collection", "0007_catalogue_overrides")]

    operations = [
        migrations.AddField(
            model_name="collection",
            name="key",
            field=models.SlugField(
                db_index=False,
                default="",
                help_text="stands in all its addresses, and never changes, whatever it is called",
                max_length=60,
            ),
            preserve_default=False,
        ),
        migrations.RunPython(give_keys, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="collection",
            name="key",
            field=models.SlugField(
                help_text="stands in all its addresses, and never changes, whatever it is called",
                max_length=60,
                unique=True,
            ),
        ),
        migrations.AddField(
            model_name="membership",
            name="since",
            field=models.DateTimeField(auto_now_add=True, default=django.utils.timezone.now),
            preserve_default=False,
        ),
        migrations.AlterModelOptions(name="membership", options={"ordering": ["pk"]}),
        migrations.AlterField(
            model_name="membership",
            name="role",
            field=models.CharField(
                choices=[
                    ("reader", "reader"),
                    ("helper", "helper"),
                    ("keeper", "keeper"),
                    ("owner", "owner"),
                ],
                max_length=10,
            ),
        ),
        migrations.RunPython(members_are_keepers, keepers_are_members),
    ]
