"""The web server's entry."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
application = get_wsgi_application()

# A long song is some hundred thousand small objects that live for one answer: looking through them
# for cycles again and again took as long as making them. `gunicorn_conf` freezes what is loaded.
gc.set_threshold(100_000, 20, 50)
