from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("bench", "0007_either_and_reasons")]

    operations = [migrations.RenameModel("Beside", "SiblingComparison")]
