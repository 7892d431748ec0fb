from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("hets", "0002_new_traits")]

    operations = [migrations.RenameModel("Mark", "HetMarker")]
