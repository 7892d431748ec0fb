from django.db import migrations


def let_go(apps, schema_editor):
    """Pairs of one genotype with itself were drilled, though nothing tells the two apart."""
    drills = apps.get_model("practice", "Drill").objects.all()
    drills.filter(pk__in=[drill.pk for drill in drills if len(set(drill.pair.split("~"))) == 1]).delete()


class Migration(migrations.Migration):
    dependencies = [("practice", "0001_first")]

    operations = [migrations.RunPython(let_go, migrations.RunPython.noop)]
