"""Behind Debian's nginx, by the configuration that is shipped, with a certificate made on the spot."""

import http.client
import json
import shutil
import tempfile
from ipaddress import ip_network
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import override_settings

from benches.proxy import NAME, WAIT_S, Nginx
from launch.deploy_check import Visitor, look
from oido.audit.models import Act
from tests.oido import factories

CLIENT = "127.0.0.7"
"""Loopback has many addresses: so a request can come from elsewhere than the proxy."""
TOKEN = "word-of-the-house"


@override_settings(
    ALLOWED_HOSTS=[NAME], TRUSTED_PROXIES=(ip_network("127.0.0.1/32"),), SECURE_SSL_REDIRECT=True, SECURE_HSTS_SECONDS=31_536_000,
    SESSION_COOKIE_SECURE=True, CSRF_COOKIE_SECURE=True, STATUS_TOKEN=TOKEN,
)  # fmt: skip
class ProxyTest(StaticLiveServerTestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = Path(tempfile.mkdtemp(prefix="oido-nginx-"))
        cls.addClassCleanup(shutil.rmtree, folder)
        nginx = Nginx(folder, [cls.live_server_url.removeprefix("http://")])
        cls.addClassCleanup(nginx.stop)
        cls.port, cls.plain_port, cls.trust = nginx.port, nginx.plain_port, nginx.trust

    def setUp(self) -> None:
        self.cookies: dict[str, str] = {}

    def ask(
        self, method: str, path: str, body: bytes = b"", **headers: str
    ) -> tuple[int, http.client.HTTPMessage, str]:
        """Ask from another address than the proxy's, keeping cookies as a browser does."""
        connection = http.client.HTTPSConnection(
            NAME, self.port, context=self.trust, source_address=(CLIENT, 0)
        )
        self.addCleanup(connection.close)
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        own = {
            "Cookie": cookies,
            "Referer": f"https://{NAME}/",
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
        }
        connection.request(method, path, body=body or None, headers={**own, **headers})
        answer = connection.getresponse()
        for cookie in answer.headers.get_all("Set-Cookie") or ():
            self.assertIn("Secure", cookie)
            name, _, value = cookie.partition(";")[0].partition("=")
            self.cookies[name] = value
        return answer.status, answer.headers, answer.read().decode()

    def sign_in(self, username: str, **headers: str) -> None:
        self.ask("GET", "/sign-in/")
        form = f"username={username}&password={factories.PASSWORD}".encode()
        kind = {"Content-Type": "application/x-www-form-urlencoded"}
        self.assertEqual(self.ask("POST", "/sign-in/", form, **kind, **headers)[0], 302)

    def test_the_trail_has_the_clients_address_whatever_the_client_claims(self) -> None:
        teacher = factories.teacher()
        self.sign_in(teacher.username, **{"X-Forwarded-For": "203.0.113.9"})
        self.assertEqual(set(Act.objects.values_list("address", flat=True)), {CLIENT})

    def test_twelve_megabytes_are_taken_and_more_is_refused_at_the_door(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        self.sign_in(student.username)
        as_json = {"Content-Type": "application/json"}
        most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        status, _, said = self.ask(
            "POST", f"/stand/{given.pk}/takes/", json.dumps({}).encode().ljust(most), **as_json
        )
        # It was read, and what is missing in it is named.
        self.assertEqual(status, 422, said[:400])
        self.assertIn("errors", json.loads(said))
        with self.subTest("more"):
            try:
                status, _, _ = self.ask("POST", f"/stand/{given.pk}/takes/", b" " * 14_000_000, **as_json)
            except (BrokenPipeError, ConnectionResetError):
                status = 413
            self.assertEqual(status, 413)

    def test_who_looks_from_another_machine_is_answered(self) -> None:
        status, _, said = self.ask("GET", "/ready/", Authorization=f"Bearer {TOKEN}")
        self.assertEqual((status, json.loads(said)["words"]["database"]), (200, "answers"))

    def test_http_leads_to_https(self) -> None:
        connection = http.client.HTTPConnection(NAME, self.plain_port, timeout=WAIT_S)
        self.addCleanup(connection.close)
        connection.request("GET", "/sign-in/?next=/")
        answer = connection.getresponse()
        self.assertEqual(
            (answer.status, answer.headers["Location"]), (301, f"https://{NAME}/sign-in/?next=/")
        )

    def test_a_server_that_is_reached_past_the_proxy_believes_nobody(self) -> None:
        factories.teacher()
        host, port = self.live_server_url.removeprefix("http://").split(":")
        for source, expected in ((CLIENT, 301), ("127.0.0.1", 200)):
            connection = http.client.HTTPConnection(host, int(port), source_address=(source, 0))
            self.addCleanup(connection.close)
            connection.request("GET", "/sign-in/", headers={"Host": NAME, "X-Forwarded-Proto": "https"})
            self.assertEqual(connection.getresponse().status, expected, source)

    def test_what_the_check_from_outside_sees(self) -> None:
        visitor = Visitor(address=f"https://{NAME}:{self.port}", token=TOKEN, trust=self.trust)
        seen = {one.name: one for one in look(visitor)}
        well = {name for name, one in seen.items() if one.is_well}
        self.assertLessEqual(
            {
                "answer", "certificate", "Strict-Transport-Security", "Content-Security-Policy", "X-Frame-Options", "cookies",
                "other names", "database", "migrations", "queue", "clock",
            },
            well,
            seen,
        )  # fmt: skip
        # Nothing works beside this server, and its static files are those of the tests.
        self.assertEqual({"workers", "schedulers", "backup", "mail", "static files"} & well, set())
        untold = {one.name for one in look(Visitor(address=visitor.address, token="other", trust=self.trust))}
        self.assertEqual((untold - set(seen), "clock" in untold), ({"token"}, False))

    def test_a_certificate_that_nobody_trusts_is_named(self) -> None:
        [seen] = look(Visitor(address=f"https://{NAME}:{self.port}"))
        self.assertEqual((seen.name, seen.is_well), ("certificate", False))
