"""Entry for the WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

from oido.common.memory import freeze_loaded_objects

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "oido.config.settings")

application = get_wsgi_application()
freeze_loaded_objects()
