"""Where a request really comes from, and how, where there are proxies in between."""

from collections.abc import Callable, Sequence
from ipaddress import IPv4Network, IPv6Network, ip_address

from django.conf import settings
from django.http import HttpRequest, HttpResponseBase

Network = IPv4Network | IPv6Network


def client_address(peer: str, forwarded_for: str, proxies: Sequence[Network]) -> str:
    """Return the last address that no trusted proxy answers for.

    `peer` is who opened the connection, `forwarded_for` the header X-Forwarded-For, to which each proxy adds on the right.
    The header counts only as far as trusted proxies wrote it.
    """
    addresses = [part.strip() for part in forwarded_for.split(",") if part.strip()]
    address = peer
    while addresses and _is_trusted(address, proxies):
        address = addresses.pop()
    return address if _is_address(address) else peer


def _is_trusted(address: str, proxies: Sequence[Network]) -> bool:
    return _is_address(address) and any(ip_address(address) in network for network in proxies)


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True


FORWARDED = ("HTTP_X_FORWARDED_FOR", "HTTP_X_FORWARDED_PROTO", "HTTP_X_FORWARDED_HOST")


class ClientAddressMiddleware:
    """Puts the address into `REMOTE_ADDR`, where everything else reads it. What others than trusted proxies say of a
    request's way is taken away."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        peer = request.META.get("REMOTE_ADDR") or ""
        if _is_trusted(peer, settings.TRUSTED_PROXIES):
            forwarded_for = request.META.get("HTTP_X_FORWARDED_FOR", "")
            request.META["REMOTE_ADDR"] = client_address(peer, forwarded_for, settings.TRUSTED_PROXIES)
        else:
            for header in FORWARDED:
                request.META.pop(header, None)
        return self.get_response(request)
