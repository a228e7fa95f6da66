"""Entry for the WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

from oido.common.memory import keep_what_is_loaded

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "oido.config.settings")

application = get_wsgi_application()
keep_what_is_loaded()
