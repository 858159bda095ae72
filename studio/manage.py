"""Django's command line for the studio: `python studio/manage.py migrate`."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
# Started as a script, Python puts this folder first; the packages lie beside and above it.
sys.path[0:1] = [str(ROOT), str(ROOT / "src")]

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
