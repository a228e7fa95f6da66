"""`./oido deploy-check URL`: what can be seen of a running Oido from outside, and what to do about it."""

import http.client
import json
import os
import re
import ssl
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from email.message import Message
from urllib.parse import urlsplit

from launch.deploying import read_settings
from launch.say import GiveUp, complain, say

ANSWER_S = 20
MIN_CERTIFICATE_DAYS = 14
MIN_HSTS_S = 24 * 3600
MAX_CLOCK_S = 5.0
HTTPS, HTTP = 443, 80
FORGED_HOST = "another-name.invalid"
NEEDED_HEADERS = {
    "Content-Security-Policy": "default-src 'none'",
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
}
"""What each page brings along, and what is in it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    status: int
    headers: Message
    body: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """One thing that was looked at. `words` says what is so and, where that is not well, what to do."""

    name: str
    is_well: bool
    words: str


@dataclass(slots=True, kw_only=True)
class Visitor:
    """Asks a running Oido, as a browser would that trusts these certificates."""

    address: str
    token: str = ""
    trust: ssl.SSLContext = field(default_factory=ssl.create_default_context)

    @property
    def host(self) -> str:
        return urlsplit(self.address).hostname or ""

    @property
    def port(self) -> int:
        return urlsplit(self.address).port or HTTPS

    def ask(self, path: str, **headers: str) -> Answer:
        """Raises OSError, HTTPException."""
        connection = http.client.HTTPSConnection(self.host, self.port, timeout=ANSWER_S, context=self.trust)
        return _asked(connection, path, headers)

    def ask_plainly(self, path: str) -> Answer:
        """Over HTTP. Raises OSError, HTTPException."""
        return _asked(http.client.HTTPConnection(self.host, HTTP, timeout=ANSWER_S), path, {})


def _asked(connection: http.client.HTTPConnection, path: str, headers: dict[str, str]) -> Answer:
    try:
        connection.request("GET", path, headers=headers)
        answer = connection.getresponse()
        return Answer(status=answer.status, headers=answer.headers, body=answer.read())
    finally:
        connection.close()


def deploy_check(arguments: Sequence[str]) -> int:
    """Look at what is seen from outside; 1 if something is not well."""
    words = list(arguments)
    authority = words.pop(words.index("--ca") + 1) if "--ca" in words[:-1] else None
    addresses = [word for word in words if word != "--ca"]
    if len(addresses) != 1 or urlsplit(addresses[0]).scheme != "https" or not urlsplit(addresses[0]).hostname:
        raise GiveUp("say where Oido is: ./oido deploy-check https://oido.example.org [--ca FILE]")
    token = os.environ.get("OIDO_STATUS_TOKEN") or read_settings().get("OIDO_STATUS_TOKEN", "")
    trust = ssl.create_default_context(cafile=authority)
    seen = list(look(Visitor(address=addresses[0], token=token, trust=trust)))
    for each in seen:
        say(f"{'well' if each.is_well else 'NOT WELL':8} {each.name}: {each.words}")
    ill = sum(not each.is_well for each in seen)
    if ill:
        complain(f"{ill} of {len(seen)} things are not well")
    return 1 if ill else 0


def look(visitor: Visitor) -> Iterator[Seen]:
    """Look at one thing after the other. Where Oido does not answer at all, nothing else is looked at."""
    try:
        page = visitor.ask("/sign-in/")
        if page.status == http.client.FOUND:
            # Where there is no school yet, it leads to where one is set up.
            page = visitor.ask(urlsplit(page.headers.get("Location", "/")).path)
    except ssl.SSLCertVerificationError as problem:
        yield Seen(
            name="certificate", is_well=False, words=f"{problem.verify_message}; browsers refuse it, too"
        )
        return
    except (OSError, http.client.HTTPException) as problem:
        yield Seen(name="answer", is_well=False, words=f"{visitor.address} does not answer: {problem}")
        return
    yield Seen(
        name="answer",
        is_well=page.status == http.client.OK,
        words=f"the page to sign in answers {page.status}",
    )
    if page.status >= http.client.INTERNAL_SERVER_ERROR:
        return
    for name, check in CHECKS.items():
        try:
            yield from check(visitor, page)
        except (OSError, http.client.HTTPException, ValueError) as problem:
            yield Seen(name=name, is_well=False, words=f"cannot be looked at: {problem}")


def _certificate(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    connection = http.client.HTTPSConnection(
        visitor.host, visitor.port, timeout=ANSWER_S, context=visitor.trust
    )
    connection.connect()
    assert isinstance(connection.sock, ssl.SSLSocket)
    certificate, version = connection.sock.getpeercert() or {}, connection.sock.version()
    connection.close()
    ends = datetime.fromtimestamp(ssl.cert_time_to_seconds(str(certificate["notAfter"])), UTC)
    days = (ends - datetime.now(UTC)).days
    words = f"{version}, good for {days} more days"
    yield Seen(
        name="certificate", is_well=days >= MIN_CERTIFICATE_DAYS,
        words=words if days >= MIN_CERTIFICATE_DAYS else f"{words}: renew it",
    )  # fmt: skip


def _redirect(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    if visitor.port != HTTPS:
        return
    answer = visitor.ask_plainly("/sign-in/")
    leads = answer.headers.get("Location", "")
    is_well = answer.status in (301, 308) and leads.startswith("https://")
    words = f"leads to {leads}" if is_well else f"answers {answer.status}; let the proxy lead to HTTPS"
    yield Seen(name="HTTP", is_well=is_well, words=words)


def _headers(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    hsts = re.search(r"max-age=(\d+)", page.headers.get("Strict-Transport-Security", ""))
    seconds = int(hsts[1]) if hsts else 0
    yield Seen(
        name="Strict-Transport-Security", is_well=seconds >= MIN_HSTS_S,
        words=f"{seconds // (24 * 3600)} days" if seconds >= MIN_HSTS_S
        else "missing or short; set OIDO_ENV=production, and let the proxy pass X-Forwarded-Proto from an address in OIDO_PROXIES",
    )  # fmt: skip
    for name, needed in NEEDED_HEADERS.items():
        is_well = needed in page.headers.get(name, "")
        words = "as it should be" if is_well else f"lacks “{needed}”; the proxy must not take it away"
        yield Seen(name=name, is_well=is_well, words=words)


def _cookies(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    cookies = page.headers.get_all("Set-Cookie") or []
    open_ones = [cookie.partition("=")[0] for cookie in cookies if "secure" not in cookie.lower()]
    words = (
        f"{', '.join(open_ones)} can be sent over HTTP; set OIDO_ENV=production"
        if open_ones
        else "are sent over HTTPS only"
    )
    yield Seen(
        name="cookies",
        is_well=bool(cookies) and not open_ones,
        words=words if cookies else "the page sets none",
    )


def _names(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    status = visitor.ask("/sign-in/", Host=FORGED_HOST).status
    is_well = status >= http.client.BAD_REQUEST
    words = "are refused" if is_well else "are answered; OIDO_HOSTS must name yours alone"
    yield Seen(name="other names", is_well=is_well, words=words)


def _static(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    path = re.search(rb'(?:href|src)="(/static/[^"]+\.(?:css|js))"', page.body)
    if path is None:
        yield Seen(name="static files", is_well=False, words="the page to sign in names none")
        return
    answer = visitor.ask(path[1].decode(), **{"Accept-Encoding": "gzip"})
    kept = answer.headers.get("Cache-Control", "")
    if answer.status != http.client.OK:
        words = f"{path[1].decode()} answers {answer.status}; run ./oido install again"
    elif "immutable" not in kept:
        words = f"are not kept by browsers (Cache-Control: {kept or 'missing'}); the proxy must not change it"
    elif "Content-Encoding" not in answer.headers:
        words = "come uncompressed; the proxy must pass Accept-Encoding"
    else:
        words = "are compressed and kept by browsers"
    yield Seen(name="static files", is_well=words.startswith("are compressed"), words=words)


def _state(visitor: Visitor, page: Answer) -> Iterator[Seen]:
    asked_at = time.time()
    answer = visitor.ask("/ready/", Authorization=f"Bearer {visitor.token}")
    state = json.loads(answer.body)
    figures = state.get("words", {})
    for name, is_well in state["well"].items():
        yield Seen(name=name, is_well=is_well, words=figures.get(name, "well" if is_well else "not well"))
    if "time" not in state:
        words = "mail and clock are only told to who has OIDO_STATUS_TOKEN, the same here and there"
        yield Seen(name="token", is_well=False, words=words)
        return
    off = abs(datetime.fromisoformat(state["time"]).timestamp() - (asked_at + time.time()) / 2)
    words = f"{off:.1f} s off this machine’s" + (
        "" if off <= MAX_CLOCK_S else "; let both follow a time server"
    )
    yield Seen(name="clock", is_well=off <= MAX_CLOCK_S, words=words)


CHECKS: dict[str, Callable[[Visitor, Answer], Iterator[Seen]]] = {
    "certificate": _certificate, "HTTP": _redirect, "headers": _headers, "cookies": _cookies, "other names": _names,
    "static files": _static, "state": _state,
}  # fmt: skip
