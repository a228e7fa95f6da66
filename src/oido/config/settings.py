"""Settings of the web application. What differs between machines comes from `env.py`."""

from datetime import timedelta

from csp.constants import NONCE, NONE, SELF

from oido.common import languages
from oido.common.logs import logging_by
from oido.config.env import ROOT, read_environment
from oido.demo.accounts import ACCOUNTS, PASSWORD

ENV = read_environment()

DEBUG = ENV.debug
SECRET_KEY = ENV.secret_key
SECRET_KEY_FALLBACKS = list(ENV.old_secret_keys)
ALLOWED_HOSTS = list(ENV.allowed_hosts)
IS_DEMO = ENV.is_demo
DEMO_ACCOUNTS = {"accounts": ACCOUNTS, "demo_password": PASSWORD}
"""What the sign-in page tells of the demo school."""

INSTALLED_APPS = [
    "oido.common",
    "oido.people",
    "oido.audit",
    "oido.jobs",
    "oido.limits",
    "oido.post",
    "oido.access",
    "oido.exercises",
    "oido.booklets",
    "oido.bench",
    "oido.rubrics",
    "oido.assignments",
    "oido.takes",
    "oido.operations",
    "oido.roster",
    "oido.marking",
    "oido.feedback",
    "oido.reports",
    "oido.progress",
    "oido.stand",
    "oido.desk",
    "oido.leaving",
    "oido.gradebook",
    "oido.classes",
    "oido.opening",
    "oido.home",
    "oido.help",
    "oido.demo",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "django_tasks",
    "django_tasks_db",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
]
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": []}}

TRUSTED_PROXIES = ENV.trusted_proxies
"""What they say of who asks, and how, is believed, and what nobody else says."""
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
"""Only of trusted proxies: of others it is taken away before it is read."""

MIDDLEWARE = [
    # Before everything that could fail or redirect: whoever looks after the machine asks these two.
    "oido.operations.health.HealthMiddleware",
    "oido.common.client_address.ClientAddressMiddleware",
    "oido.common.request_log.RequestLogMiddleware",
    "django_prometheus.middleware.PrometheusBeforeMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    # Pads what it compresses at random, so that its length gives nothing away.
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "oido.audit.where.WhereMiddleware",
    "oido.access.sessions.SeenMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "oido.opening.middleware.EmptyMiddleware",
    "oido.people.middleware.SignedOutMiddleware",
    "oido.people.middleware.SchoolMiddleware",
    "oido.limits.middleware.LimitsMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "oido.access.two_step.TwoStepMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    # Last, so that it sees who was refused.
    "axes.middleware.AxesMiddleware",
    "django_prometheus.middleware.PrometheusAfterMiddleware",
]

ROOT_URLCONF = "oido.config.urls"
WSGI_APPLICATION = "oido.config.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "csp.context_processors.nonce",
                "oido.common.context.navigation",
                "oido.common.context.scripts",
                "oido.help.tours.offer_tour",
            ],
        },
    },
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "HOST": ENV.db_host,
        "PORT": ENV.db_port,
        "NAME": ENV.db_name,
        "USER": ENV.db_user,
        "PASSWORD": ENV.db_password,
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "charset": "utf8mb4",
            "collation": "utf8mb4_unicode_ci",
            "isolation_level": "read committed",
            "init_command": "SET sql_mode='STRICT_ALL_TABLES'",
        },
        "TEST": {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "oido.people.backend.MemberBackend"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
"""One name from one place: a class behind one address must not be locked out by one of its pupils."""
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
"""Who signed in when stands in the trail, and no name in a second place."""
AXES_LOCKOUT_CALLABLE = "oido.access.views.locked_out"
AXES_VERBOSE = False
OTP_TOTP_ISSUER = "Oido"
OWN_ADDRESS = ENV.own_address
"""How this Oido is reached, for links in e-mails and on slips."""
EMAIL_HOST, EMAIL_PORT, EMAIL_USE_TLS = ENV.mail_host, ENV.mail_port, ENV.mail_tls
EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = ENV.mail_user, ENV.mail_password
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = ENV.mail_from
STATUS_TOKEN = ENV.status_token
"""Who brings it is told figures of this installation."""
BACKUP_FOLDER = ENV.backup_folder
WORKER_MEMORY_BYTES = ENV.worker_memory_mb * 1_000_000
MAIL_GOES_TO_FILES = not ENV.mail_host
EMAIL_BACKEND = f"django.core.mail.backends.{'filebased' if MAIL_GOES_TO_FILES else 'smtp'}.EmailBackend"
EMAIL_FILE_PATH = ENV.mail_folder
SERVER_MEASURES_AFTER_S = 5.0
"""So long a take that somebody looks at waits for a worker; then the server measures it."""
SIGN_IN_SERVICE = ENV.sign_in_service
TRAIL_MONTHS, TRAIL_ADDRESS_MONTHS = ENV.trail_months, ENV.trail_address_months
SCHOOL_MAX_PEOPLE, SCHOOL_MAX_TAKES = ENV.school_max_people, ENV.school_max_takes
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "home"
LOGOUT_REDIRECT_URL = "sign-in"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

LANGUAGE_CODE = "en-gb"
LANGUAGES = languages.CHOICES
USE_I18N = True
LOCALE_PATHS = [ROOT / "build" / "locale"]
TIME_ZONE = "UTC"
USE_TZ = True
USE_THOUSAND_SEPARATOR = False
FORMAT_MODULE_PATH = ["oido.common.formats"]

STATIC_URL = "/static/"
STATIC_ROOT = ENV.static_root
GUIDES = ROOT / "docs" / "guide"
STATICFILES_DIRS = [ROOT / "build" / "assets", ("guide", ROOT / "docs" / "screenshots")]
TYPEFACES = ROOT / "build" / "assets" / "fonts"
SOUND_BANK = ROOT / "build" / "assets" / "sound" / "bank.sf3"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "oido.common.static.ModuleStorage"},
}
WHITENOISE_KEEP_ONLY_HASHED_FILES = False
# The sound bank is compressed sound: to compress it once more took most of the time and saved nothing.
WHITENOISE_SKIP_COMPRESS_EXTENSIONS = ("png", "svgz", "gz", "br", "woff", "woff2", "sf3")

SECURE_SSL_REDIRECT = ENV.is_production
SECURE_HSTS_SECONDS = ENV.hsts_days * 24 * 3600 if ENV.is_production else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SILENCED_SYSTEM_CHECKS = ["security.W021"]
"""That browsers know of HTTPS beforehand is decided for a whole domain, by its owner, and not by one application in it."""
CSRF_TRUSTED_ORIGINS = [ENV.own_address]
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = ENV.is_production
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "oido.people.middleware.refuse_stale_token"
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
DATA_UPLOAD_MAX_MEMORY_SIZE = 12_000_000
"""A take of 100,000 events as JSON, the most that the core reads."""
FILE_UPLOAD_MAX_MEMORY_SIZE = 5_000_000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF, NONCE, "'wasm-unsafe-eval'"],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "manifest-src": [SELF],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    },
}

LOGGING = logging_by(ENV.log_level, is_production=ENV.is_production)
