"""Settings under test: quick passwords, static files straight from their sources, quiet logs."""

from oido.config.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
# Static files are found by Django's own finders: there need be no gathered folder.
MIDDLEWARE = [m for m in MIDDLEWARE if "whitenoise" not in m]  # noqa: F405
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
ALLOWED_HOSTS = ["*"]
IS_DEMO = False
# No worker runs beside tests: who waits for a take has it measured.
SERVER_MEASURES_AFTER_S = 0.0
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"stderr": {"class": "logging.StreamHandler"}},
    # Refusals are what many tests ask for; only what breaks is worth a line.
    "loggers": {
        "axes": {"level": "ERROR"},
        "oido.limits": {"level": "ERROR"},
        "django.request": {"handlers": ["stderr"], "level": "ERROR", "propagate": False},
    },
}
TEST_RUNNER = "tests.oido.runner.OutsideRunner"
