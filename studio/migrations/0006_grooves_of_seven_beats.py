"""Grooves as bits have room for seven beats: those of four are worked out anew."""

from django.db import migrations


def forget_grooves(apps, schema_editor):
    """They are stale; whoever asks next has them made."""
    apps.get_model("studio", "SongBar").objects.update(groove=None)


class Migration(migrations.Migration):

    dependencies = [("studio", "0005_kits_and_practice")]
    operations = [migrations.RunPython(forget_grooves, migrations.RunPython.noop)]
