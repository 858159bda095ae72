"""Orchesis: from a recorded song to a drum chart that people play along with.

This package is the core: rules and computation only. It knows no database, no web and no
screen; it touches only the files that it is handed. A part imports only from parts below it:
music, audio, listening, rhythm, form, groove, limbs, edits, chart, practice, pipeline, cli.
"""

__version__ = "0.1.0"
