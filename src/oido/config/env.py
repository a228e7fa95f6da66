"""The one reader of the environment: typed, and loud when something is wrong."""

import logging
import os
from dataclasses import dataclass
from ipaddress import IPv4Network, IPv6Network, ip_network
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
DEFAULT_DB_PORT = 33306


class BadEnvironment(RuntimeError):
    """A variable of the environment is missing or makes no sense."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Environment:
    debug: bool
    secret_key: str
    allowed_hosts: tuple[str, ...]
    trusted_proxies: tuple[IPv4Network | IPv6Network, ...]
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


def _flag(name: str, *, default: bool) -> bool:
    value = os.environ.get(name, "").strip().lower()
    if value in ("", "default"):
        return default
    if value in ("1", "yes", "true", "on"):
        return True
    if value in ("0", "no", "false", "off"):
        return False
    raise BadEnvironment(f"{name} is yes or no, not {value!r}")


def _number(name: str, *, default: int) -> int:
    value = os.environ.get(name, "")
    try:
        return int(value) if value else default
    except ValueError as problem:
        raise BadEnvironment(f"{name} is a whole number, not {value!r}") from problem


def _level(name: str, *, default: str) -> str:
    value = os.environ.get(name, default).strip().upper()
    if value not in logging.getLevelNamesMapping():
        raise BadEnvironment(f"{name} is DEBUG, INFO, WARNING or ERROR, not {value!r}")
    return value


def _networks(name: str) -> tuple[IPv4Network | IPv6Network, ...]:
    try:
        return tuple(ip_network(part.strip()) for part in os.environ.get(name, "").split(",") if part.strip())
    except ValueError as problem:
        raise BadEnvironment(f"{name} is a list of addresses or networks: {problem}") from problem


def read_environment() -> Environment:
    debug = _flag("OIDO_DEBUG", default=False)
    secret = os.environ.get("OIDO_SECRET_KEY", "")
    if not secret:
        raise BadEnvironment("OIDO_SECRET_KEY is not set; ./oido sets it by itself")
    return Environment(
        debug=debug,
        secret_key=secret,
        allowed_hosts=tuple(os.environ.get("OIDO_HOSTS", "127.0.0.1,localhost").split(",")),
        trusted_proxies=_networks("OIDO_PROXIES"),
        db_host=os.environ.get("OIDO_DB_HOST", "127.0.0.1"),
        db_port=_number("OIDO_DB_PORT", default=DEFAULT_DB_PORT),
        db_name=os.environ.get("OIDO_DB_NAME", "oido"),
        db_user=os.environ.get("OIDO_DB_USER", "oido"),
        db_password=os.environ.get("OIDO_DB_PASSWORD", ""),
        static_root=Path(os.environ.get("OIDO_STATIC_ROOT", ROOT / "build" / "static")),
        is_demo=_flag("OIDO_DEMO", default=False),
        log_level=_level("OIDO_LOG", default="INFO"),
        own_address=os.environ.get("OIDO_ADDRESS", "http://127.0.0.1:8000").rstrip("/"),
        mail_host=os.environ.get("OIDO_MAIL_HOST", ""),
        mail_port=_number("OIDO_MAIL_PORT", default=587),
        mail_tls=_flag("OIDO_MAIL_TLS", default=True),
        mail_user=os.environ.get("OIDO_MAIL_USER", ""),
        mail_password=os.environ.get("OIDO_MAIL_PASSWORD", ""),
        mail_from=os.environ.get("OIDO_MAIL_FROM", "Oido <oido@localhost>"),
        mail_folder=Path(os.environ.get("OIDO_MAIL_FOLDER", ROOT / ".data" / "mail")),
    )
