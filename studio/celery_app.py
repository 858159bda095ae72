"""The worker's entry: `celery -A studio.celery_app worker`."""

import os

from celery import Celery

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
app = Celery("orchesis")
app.config_from_object("django.conf:settings", namespace="CELERY")
app.autodiscover_tasks(["studio.jobs"], related_name="work")
