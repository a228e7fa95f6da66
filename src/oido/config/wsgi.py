"""Entry for the WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "oido.config.settings")

application = get_wsgi_application()
