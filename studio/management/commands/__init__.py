"""Commands of the studio for Django's manage.py."""
