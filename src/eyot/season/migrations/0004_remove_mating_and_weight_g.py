from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("season", "0003_locks_and_weights")]
    operations = [
        migrations.DeleteModel(name="Mating"),
        migrations.RemoveField(model_name="egg", name="weight_g"),
    ]
