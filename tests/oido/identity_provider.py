"""A stand-in for a school's sign-in service: discovery, keys, and tokens for whichever claims a test sets."""

import json
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Thread
from typing import Any
from urllib.parse import parse_qs, urlsplit

from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey

CLIENT_ID, CLIENT_SECRET = "oido", "a secret of the tests"


class IdentityProvider:
    """Serves on a free port of loopback until `stop`. `claims` are those of whoever signs in next."""

    def __init__(self) -> None:
        self.key = self.signing_key = RSAKey.generate_key(2048, {"kid": "one"})
        self.claims: dict[str, Any] = {}
        self.nonce = ""
        self.token_requests: list[dict[str, list[str]]] = []
        self.server = ThreadingHTTPServer(("127.0.0.1", 0), self._handler())
        self.issuer = f"http://127.0.0.1:{self.server.server_port}"
        Thread(target=self.server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        self.server.shutdown()
        self.server.server_close()

    def consent(self, address: str) -> str:
        """Return the path to which the service would send a browser back that was sent to this address."""
        asked = {name: values[0] for name, values in parse_qs(urlsplit(address).query).items()}
        self.nonce = asked["nonce"]
        return f"{urlsplit(asked['redirect_uri']).path}?code=a-code&state={asked['state']}"

    def answer(self, path: str) -> dict[str, Any]:
        if path == "/keys":
            return KeySet([self.key]).as_dict(private=False)
        if path == "/token":
            now = int(time.time())
            claims = {
                "iss": self.issuer,
                "aud": CLIENT_ID,
                "iat": now,
                "exp": now + 60,
                "nonce": self.nonce,
                **self.claims,
            }
            token = jwt.encode({"alg": "RS256", "kid": "one"}, claims, self.signing_key)
            return {"access_token": "a-token", "token_type": "Bearer", "expires_in": 60, "id_token": token}
        return {
            "issuer": self.issuer, "authorization_endpoint": f"{self.issuer}/authorize", "token_endpoint": f"{self.issuer}/token",
            "jwks_uri": f"{self.issuer}/keys", "id_token_signing_alg_values_supported": ["RS256"],
        }  # fmt: skip

    def _handler(self) -> type[BaseHTTPRequestHandler]:
        provider = self

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                body = json.dumps(provider.answer(urlsplit(self.path).path)).encode()
                self.send_response(200)
                self.send_header("Content-Type", "application/json")
                self.send_header("Content-Length", str(len(body)))
                self.end_headers()
                self.wfile.write(body)

            def do_POST(self) -> None:
                sent = self.rfile.read(int(self.headers["Content-Length"])).decode()
                provider.token_requests.append(parse_qs(sent))
                self.do_GET()

            def log_message(self, format: str, *args: object) -> None:
                pass

        return Handler
