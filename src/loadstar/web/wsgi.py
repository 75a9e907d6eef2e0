"""The application for gunicorn."""

import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "loadstar.web.settings")
application = get_wsgi_application()
get_resolver().url_patterns  # noqa: B018 (loads every page and the core before the workers part)
