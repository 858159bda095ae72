from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("studio", "0002_changes_and_sources")]

    operations = [
        migrations.AddField(
            model_name="songbar", name="groove", field=models.BinaryField(null=True)
        ),
    ]
