"""Locks become rounds of introduction; weights of hatchlings become weighings on the day they left the egg."""

from django.db import migrations
from django.utils import timezone


def move(apps, schema_editor):
    Mating, Round = apps.get_model("season", "Mating"), apps.get_model("season", "Round")
    Egg, Weighing = apps.get_model("season", "Egg"), apps.get_model("season", "Weighing")
    Round.objects.bulk_create(
        Round(clutch_id=lock.clutch_id, sire_id=lock.sire_id, introduced_on=lock.on, locked_on=lock.on)
        for lock in Mating.objects.order_by("pk")
    )
    Weighing.objects.bulk_create(
        Weighing(egg=egg, grams=egg.weight_g, on=egg.clutch.out_on or timezone.localdate())
        for egg in Egg.objects.filter(weight_g__gt=0).select_related("clutch")
    )


class Migration(migrations.Migration):
    dependencies = [("season", "0002_the_seasons_record")]
    operations = [migrations.RunPython(move, migrations.RunPython.noop)]
