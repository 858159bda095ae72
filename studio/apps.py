"""The studio as a Django application."""

from django.apps import AppConfig


class StudioConfig(AppConfig):
    """Importing the Celery app here makes `shared_task`s send to our broker."""

    name = "studio"

    def ready(self) -> None:
        """Called by Django once all models are loaded."""
        from orchesis.chart.engrave import share_drawings
        from studio import celery_app  # noqa: F401
        from studio.drawings import RedisDrawings
        from studio.jobs import engraving, work  # noqa: F401

        share_drawings(RedisDrawings())
