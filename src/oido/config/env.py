"""The one reader of the environment: typed, and loud when something is wrong. `.env.example` explains each variable."""

import logging
import os
from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import IPv4Network, IPv6Network, ip_network
from pathlib import Path
from urllib.parse import urlsplit

ROOT = Path(__file__).resolve().parents[3]
DEFAULT_DB_PORT = 33306
PRODUCTION, DEVELOPMENT = "production", "development"
MIN_SECRET_LENGTH = 50
"""In production: so long is what `./oido install` makes, and what Django's own check asks for."""
LAUNCHER_NAMES = frozenset({
    "OIDO_CHROMIUM", "OIDO_DATA", "OIDO_EXAMPLES", "OIDO_LISTEN", "OIDO_PORT", "OIDO_THREADS", "OIDO_WORKERS",
})  # fmt: skip
"""Read by `./oido` and the tests, not by the application."""

Network = IPv4Network | IPv6Network


class BadEnvironment(RuntimeError):
    """A variable of the environment is missing or makes no sense."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SignInService:
    """A school's own sign-in service, asked by OpenID Connect."""

    issuer: str
    client_id: str
    client_secret: str
    name: str
    """On the button."""
    school: str
    """Whose people it knows. Empty where this Oido serves only one school."""
    roles_claim: str
    head_roles: tuple[str, ...]
    teacher_roles: tuple[str, ...]
    student_roles: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Environment:
    is_production: bool
    debug: bool
    secret_key: str
    old_secret_keys: tuple[str, ...]
    allowed_hosts: tuple[str, ...]
    trusted_proxies: tuple[Network, ...]
    hsts_days: int
    db_host: str
    db_port: int
    db_name: str
    db_user: str
    db_password: str
    static_root: Path
    is_demo: bool
    log_level: str
    own_address: str
    mail_host: str
    mail_port: int
    mail_tls: bool
    mail_user: str
    mail_password: str
    mail_from: str
    mail_folder: Path
    status_token: str
    backup_folder: Path | None
    worker_memory_mb: int
    sign_in_service: SignInService | None
    school_max_people: int | None
    school_max_takes: int | None
    trail_months: int
    trail_address_months: int


class _Variables:
    """Reads variables, and knows which ones it was asked for."""

    def __init__(self, values: Mapping[str, str]) -> None:
        self.values = values
        self.asked: set[str] = set()

    def text(self, name: str, default: str = "") -> str:
        self.asked.add(name)
        return self.values.get(name, "").strip() or default

    def words(self, name: str) -> tuple[str, ...]:
        return tuple(part.strip() for part in self.text(name).split(",") if part.strip())

    def flag(self, name: str, *, default: bool) -> bool:
        value = self.text(name).lower()
        if value in ("", "default"):
            return default
        if value in ("1", "yes", "true", "on"):
            return True
        if value in ("0", "no", "false", "off"):
            return False
        raise BadEnvironment(f"{name} is yes or no, not {value!r}")

    def number(self, name: str, *, default: int) -> int:
        value = self.text(name)
        try:
            return int(value) if value else default
        except ValueError as problem:
            raise BadEnvironment(f"{name} is a whole number, not {value!r}") from problem

    def level(self, name: str, *, default: str) -> str:
        value = self.text(name, default).upper()
        if value not in logging.getLevelNamesMapping():
            raise BadEnvironment(f"{name} is DEBUG, INFO, WARNING or ERROR, not {value!r}")
        return value

    def networks(self, name: str) -> tuple[Network, ...]:
        try:
            return tuple(ip_network(part) for part in self.words(name))
        except ValueError as problem:
            raise BadEnvironment(f"{name} is a list of addresses or networks: {problem}") from problem

    def folder(self, name: str) -> Path | None:
        value = self.text(name)
        return Path(value) if value else None

    def refuse_unknown(self) -> None:
        """A name that nothing reads is a slip of the pen: the setting that was meant would be missing."""
        unknown = {name for name in self.values if name.startswith("OIDO_")} - self.asked - LAUNCHER_NAMES
        if unknown:
            raise BadEnvironment(f"{min(unknown)} is no setting of Oido; .env.example lists them")


def read_environment(values: Mapping[str, str] | None = None) -> Environment:
    """Return the settings that differ between machines. Raise BadEnvironment, which names the variable."""
    read = _Variables(os.environ if values is None else values)
    name = read.text("OIDO_ENV", DEVELOPMENT)
    if name not in (PRODUCTION, DEVELOPMENT):
        raise BadEnvironment(f"OIDO_ENV is {PRODUCTION} or {DEVELOPMENT}, not {name!r}")
    is_production = name == PRODUCTION
    address = read.text("OIDO_ADDRESS", "" if is_production else "http://127.0.0.1:8000").rstrip("/")
    hosts = read.words("OIDO_HOSTS")
    made = Environment(
        is_production=is_production,
        debug=read.flag("OIDO_DEBUG", default=False),
        secret_key=read.text("OIDO_SECRET_KEY"),
        old_secret_keys=read.words("OIDO_OLD_SECRET_KEYS"),
        allowed_hosts=hosts or _hosts_of(address, is_production=is_production),
        trusted_proxies=read.networks("OIDO_PROXIES"),
        hsts_days=read.number("OIDO_HSTS_DAYS", default=365),
        db_host=read.text("OIDO_DB_HOST", "127.0.0.1"),
        db_port=read.number("OIDO_DB_PORT", default=DEFAULT_DB_PORT),
        db_name=read.text("OIDO_DB_NAME", "oido"),
        db_user=read.text("OIDO_DB_USER", "oido"),
        db_password=read.text("OIDO_DB_PASSWORD"),
        static_root=Path(read.text("OIDO_STATIC_ROOT", str(ROOT / "build" / "static"))),
        is_demo=read.flag("OIDO_DEMO", default=False),
        log_level=read.level("OIDO_LOG", default="INFO"),
        own_address=address,
        mail_host=read.text("OIDO_MAIL_HOST"),
        mail_port=read.number("OIDO_MAIL_PORT", default=587),
        mail_tls=read.flag("OIDO_MAIL_TLS", default=True),
        mail_user=read.text("OIDO_MAIL_USER"),
        mail_password=read.text("OIDO_MAIL_PASSWORD"),
        mail_from=read.text("OIDO_MAIL_FROM", "Oido <oido@localhost>"),
        mail_folder=Path(read.text("OIDO_MAIL_FOLDER", str(ROOT / ".data" / "mail"))),
        status_token=read.text("OIDO_STATUS_TOKEN"),
        backup_folder=read.folder("OIDO_BACKUPS"),
        worker_memory_mb=read.number("OIDO_WORKER_MEMORY_MB", default=2000),
        sign_in_service=_read_sign_in_service(read),
        school_max_people=read.number("OIDO_SCHOOL_PEOPLE", default=0) or None,
        school_max_takes=read.number("OIDO_SCHOOL_TAKES", default=0) or None,
        trail_months=read.number("OIDO_TRAIL_MONTHS", default=36),
        trail_address_months=read.number("OIDO_TRAIL_ADDRESS_MONTHS", default=6),
    )
    read.refuse_unknown()
    _refuse_unsafe(made)
    return made


def _read_sign_in_service(read: _Variables) -> SignInService | None:
    service = SignInService(
        issuer=read.text("OIDO_OIDC_ISSUER").rstrip("/"),
        client_id=read.text("OIDO_OIDC_CLIENT_ID"),
        client_secret=read.text("OIDO_OIDC_CLIENT_SECRET"),
        name=read.text("OIDO_OIDC_NAME", "your school account"),
        school=read.text("OIDO_OIDC_SCHOOL"),
        roles_claim=read.text("OIDO_OIDC_ROLES_CLAIM", "roles"),
        head_roles=read.words("OIDO_OIDC_HEADS") or ("head",),
        teacher_roles=read.words("OIDO_OIDC_TEACHERS") or ("teacher",),
        student_roles=read.words("OIDO_OIDC_STUDENTS") or ("student",),
    )
    if not service.issuer:
        return None
    for name, value in (
        ("OIDO_OIDC_CLIENT_ID", service.client_id),
        ("OIDO_OIDC_CLIENT_SECRET", service.client_secret),
    ):
        if not value:
            raise BadEnvironment(f"{name} is not set, although OIDO_OIDC_ISSUER is")
    return service


def _hosts_of(address: str, *, is_production: bool) -> tuple[str, ...]:
    host = urlsplit(address).hostname
    return (host,) if is_production and host else ("127.0.0.1", "localhost")


def _refuse_unsafe(made: Environment) -> None:
    if not made.secret_key:
        raise BadEnvironment("OIDO_SECRET_KEY is not set; ./oido sets it by itself")
    if not made.is_production:
        return
    parts = urlsplit(made.own_address)
    if parts.scheme != "https" or not parts.hostname or parts.path or parts.query:
        raise BadEnvironment(
            f"OIDO_ADDRESS is what people type, such as https://oido.example.org, not {made.own_address!r}"
        )
    if len(made.secret_key) < MIN_SECRET_LENGTH:
        raise BadEnvironment(
            f"OIDO_SECRET_KEY has fewer than {MIN_SECRET_LENGTH} characters; leave it out, and ./oido install makes one"
        )
    for name, is_on in (("OIDO_DEBUG", made.debug), ("OIDO_DEMO", made.is_demo)):
        if is_on:
            raise BadEnvironment(f"{name} is yes: not in production")
    if made.sign_in_service and not made.sign_in_service.issuer.startswith("https://"):
        raise BadEnvironment("OIDO_OIDC_ISSUER begins with https:// in production")
    if made.hsts_days < 1:
        raise BadEnvironment("OIDO_HSTS_DAYS is at least 1 in production")
