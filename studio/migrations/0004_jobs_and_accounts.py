"""Listening runs become jobs of several kinds; accounts get what their name looks like."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def add_accounts(apps, schema_editor):
    """An account for each user. Of two that look alike, the later keeps its name all the same."""
    from studio.names import skeleton

    User = apps.get_model("auth", "User")
    Account = apps.get_model("studio", "Account")
    for user in User.objects.order_by("pk"):
        looks = skeleton(user.username)[:280]
        if Account.objects.filter(skeleton=looks).exists():
            looks = f"{looks}#{user.pk}"
        # The loader before this one made the demo's account without a password; people have one.
        demo = user.username == "demo" and user.password.startswith("!")
        Account.objects.create(user=user, skeleton=looks, is_demo=demo)


class Migration(migrations.Migration):

    dependencies = [
        ("studio", "0003_groove_bits"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameModel("ListeningRun", "Job"),
        migrations.AlterField(
            "job",
            "song",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="studio.song"
            ),
        ),
        migrations.AddField(
            "job",
            "source",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="jobs",
                to="studio.source",
            ),
        ),
        migrations.AddField(
            "job",
            "kind",
            models.CharField(
                choices=[
                    ("listen", "listening"),
                    ("line_up", "lining up a second recording"),
                    ("print", "printing the chart"),
                ],
                default="listen",
                max_length=8,
            ),
        ),
        migrations.AddField("job", "options", models.JSONField(default=dict)),
        migrations.AddField("job", "woken_at", models.DateTimeField(null=True)),
        migrations.AddIndex("job", models.Index(fields=["state", "kind"], name="jobs_by_state")),
        migrations.AlterField(
            "source",
            "state",
            models.CharField(
                choices=[
                    ("queued", "waiting"),
                    ("running", "lining up"),
                    ("ready", "lined up"),
                    ("refused", "does not fit"),
                    ("failed", "was not lined up"),
                ],
                default="queued",
                max_length=8,
            ),
        ),
        migrations.CreateModel(
            name="Account",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("skeleton", models.CharField(max_length=300, unique=True)),
                ("is_demo", models.BooleanField(default=False)),
                (
                    "user",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="account",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
        ),
        migrations.RunPython(add_accounts, migrations.RunPython.noop),
    ]
