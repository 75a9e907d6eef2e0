"""Settings from the environment, with working local defaults.

LOADSTAR_MODE: demo (one-press demo sign-in, plain cookies), serve, or test. LOADSTAR_DATABASE_URL: a MariaDB.
LOADSTAR_SECRET_KEY: kept by the launcher. LOADSTAR_HOSTS: names the site is served under, comma-separated.
LOADSTAR_PROXIES: addresses of proxies that say where a request comes from, comma-separated; none: nobody's word is
taken. LOADSTAR_DATA: the data folder. LOADSTAR_METER: host:port of a meter on a socket. LOADSTAR_WORK=beside: processes
that make papers and take files in run beside this one.
LOADSTAR_PLAIN_COOKIES=1 lets `serve` work over plain HTTP with
browsers that refuse secure cookies on loopback.
"""

import os
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF

MODE = os.environ.get("LOADSTAR_MODE", "serve")
BASE = Path(__file__).resolve().parent
COLLATION = "utf8mb4_uca1400_nopad_as_cs"

SECRET_KEY = os.environ["LOADSTAR_SECRET_KEY"]
DEBUG = False
# By number too, whatever else it is served under: `./loadstar status` asks the health address so.
LAN = os.environ.get("LOADSTAR_LAN", "")  # where telephones of the same network find it; "": nowhere
# what a telephone has to be taught to trust once, where the certificate is of our own making
ROOT_CERTIFICATE = os.environ.get("LOADSTAR_ROOT_CERTIFICATE", "")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", *(h for h in os.environ.get("LOADSTAR_HOSTS", "").split(",") if h)]
# Addresses of proxies whose word is taken for where a request comes from; empty: nobody's.
PROXIES = frozenset(a for a in os.environ.get("LOADSTAR_PROXIES", "").split(",") if a)
DEMO = MODE == "demo"
DATA = Path(os.environ["LOADSTAR_DATA"]) if "LOADSTAR_DATA" in os.environ else None
METER = os.environ.get("LOADSTAR_METER", "")  # host:port of a meter that readings can be taken from; empty: none
SETUP_CODE_FILE = Path(os.environ.get("LOADSTAR_DATA", "var")) / "setup-code"

INSTALLED_APPS = [
    "django.contrib.auth", "django.contrib.contenttypes", "django.contrib.sessions", "django.contrib.messages",
    "django.contrib.staticfiles", "axes", "csp", "django_otp", "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "django_tasks", "django_tasks_db",
    "loadstar.web.workshop", "loadstar.web.plans", "loadstar.web.records", "loadstar.web.jobs", "loadstar.web.papers",
    "loadstar.web.stations", "loadstar.web.service",
]
# What takes long is made by processes of their own (`work`), which the launcher starts; without them at once.
TASKS_BESIDE = os.environ.get("LOADSTAR_WORK") == "beside"
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend" if TASKS_BESIDE else
                     "django_tasks.backends.immediate.ImmediateBackend"}}
JOB_KINDS = {"paper": "loadstar.web.papers.beside.Papers", "file": "loadstar.web.records.beside.Files",
             "photo": "loadstar.web.records.beside.Photographs"}
JOB_MOST_BYTES = 1536 * 1024**2  # of memory, for such a process
MIDDLEWARE = [
    "loadstar.web.headers.ServerTiming",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "loadstar.web.headers.KeptByNobody",
    "loadstar.web.room.Room",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
    "loadstar.web.onward.Onward",
]
ROOT_URLCONF = "loadstar.web.urls"
WSGI_APPLICATION = "loadstar.web.wsgi.application"
TEMPLATES = [{
    "BACKEND": "django.template.backends.django.DjangoTemplates",
    "DIRS": [BASE / "templates", *sorted((BASE / "stations").glob("*/templates"))],
    "APP_DIRS": True,
    "OPTIONS": {
        "context_processors": [
            "django.template.context_processors.request", "django.contrib.auth.context_processors.auth",
            "django.contrib.messages.context_processors.messages", "loadstar.web.workshop.context.site",
        ],
        "builtins": ["loadstar.web.frame.tags"],
    },
}]

DATABASES = {"default": dj_database_url.parse(
    os.environ.get("LOADSTAR_DATABASE_URL", "mysql://loadstar@127.0.0.1:3306/loadstar"),
    conn_max_age=600, conn_health_checks=True)}
DATABASES["default"].setdefault("OPTIONS", {}).update({
    "charset": "utf8mb4", "collation": COLLATION, "connect_timeout": 3,
    "init_command": "SET sql_mode='STRICT_TRANS_TABLES', innodb_strict_mode=1", "isolation_level": "read committed"})
DATABASES["default"]["TEST"] = {"CHARSET": "utf8mb4", "COLLATION": COLLATION}
# Analyses, which every worker may need; anything in it can be thrown away. The folder is the server's own (mode 700).
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "analyses": {"BACKEND": "loadstar.web.plans.shared.Files", "LOCATION": Path(os.environ["LOADSTAR_DATA"]) / "cache",
                 "OPTIONS": {"MAX_ENTRIES": 1000}}
    if "LOADSTAR_DATA" in os.environ else {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "workshop.Person"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = ["loadstar.web.workshop.hashers.Argon2"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}", "OPTIONS": options}
    for name, options in (("UserAttributeSimilarityValidator", {}), ("MinimumLengthValidator", {"min_length": 12}),
                          ("CommonPasswordValidator", {}))
]
OTP_TOTP_ISSUER = "Loadstar"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "home"
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "locked.html"
AXES_CLIENT_IP_CALLABLE = "loadstar.web.workshop.access.address_of"
AXES_VERBOSE = False
SILENCED_SYSTEM_CHECKS = ["axes.W003"]

SECURE = MODE == "serve" and os.environ.get("LOADSTAR_PLAIN_COOKIES") != "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE
if SECURE:  # a browser takes these only over TLS, from this host, for all of it
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-session", "__Host-form"
SESSION_COOKIE_HTTPONLY = CSRF_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 14 * 24 * 3600
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if SECURE else 0  # said over TLS only
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {"DIRECTIVES": {
    "default-src": [NONE], "script-src": [SELF], "style-src": [SELF], "font-src": [SELF], "img-src": [SELF],
    "connect-src": [SELF], "manifest-src": [SELF], "worker-src": [SELF],
    "form-action": [SELF], "frame-ancestors": [NONE], "base-uri": [NONE],
}}
CSRF_FAILURE_VIEW = "loadstar.web.errors.csrf_failure"

COMPUTE_S = 20.0  # the longest that anything is computed before it is told as too large
# A photograph is the largest thing anybody sends.
DATA_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 13 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FIELDS = 700

LANGUAGE_CODE = "en"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True
USE_I18N = False

STATIC_URL = "static/"
STATICFILES_DIRS = [BASE / "static"]
WHITENOISE_USE_FINDERS = True
WHITENOISE_ROOT = BASE / "rooted"  # what a browser wants at the top of the address
WHITENOISE_MIMETYPES = {".webmanifest": "application/manifest+json"}
WHITENOISE_AUTOREFRESH = False
WHITENOISE_MAX_AGE = 3600

LOGGING = {
    "version": 1, "disable_existing_loggers": False,
    "filters": {"away": {"()": "loadstar.web.logs.AwayInOneLine"}, "hosts": {"()": "loadstar.web.logs.NobodysHost"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["away", "hosts"], "formatter": "dated"}},
    "formatters": {"dated": {"format": "[%(asctime)s] [%(process)d] [%(levelname)s] %(message)s"}},
    # Nobody's address that does not exist is worth a line.
    "loggers": {"django": {"handlers": [], "level": "WARNING"}, "django.request": {"level": "ERROR"},
                "weasyprint": {"level": "ERROR"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
