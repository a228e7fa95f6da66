"""Behind Debian's nginx, by the configuration that is shipped, with a certificate made on the spot."""

import http.client
import json
import os
import pwd
import re
import shutil
import ssl
import subprocess
import tempfile
import time
from ipaddress import ip_network
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import override_settings

from launch.database import free_port, is_port_taken
from launch.deploy_check import Visitor, look
from launch.places import ROOT
from oido.audit.models import Act
from tests.oido import factories

NAME = "localhost"
CLIENT = "127.0.0.7"
"""Loopback has many addresses: so a request can come from elsewhere than the proxy."""
TOKEN = "word-of-the-house"
AROUND = """daemon off;
user {user};
pid {folder}/nginx.pid;
error_log {folder}/error.log;
events {{}}
http {{
    access_log off;
    client_body_temp_path {folder}/bodies;
    proxy_temp_path {folder}/answers;
    fastcgi_temp_path {folder}/f;
    uwsgi_temp_path {folder}/u;
    scgi_temp_path {folder}/s;
    include {folder}/oido.conf;
}}
"""
WAIT_S = 20.0


def make_certificate(folder: Path) -> None:
    subprocess.run(
        [
            "openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", "30",
            "-subj", f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME}",
            "-keyout", str(folder / "privkey.pem"), "-out", str(folder / "fullchain.pem"),
        ],
        check=True, capture_output=True,
    )  # fmt: skip


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
        make_certificate(folder)
        cls.port, cls.plain_port = free_port(), free_port()
        shipped = (ROOT / "deploy" / "nginx" / "oido.conf").read_text()
        for pattern, here in (
            (r"127\.0\.0\.1:8000", cls.live_server_url.removeprefix("http://")),
            (r"listen \[::\].*", ""),
            (r"listen 80;", f"listen 127.0.0.1:{cls.plain_port};"),
            (r"listen 443", f"listen 127.0.0.1:{cls.port}"),
            (r"oido\.example\.org", NAME),
            (r"/etc/ssl/oido", str(folder)),
        ):
            shipped, count = re.subn(pattern, here, shipped)
            assert count, pattern
        (folder / "oido.conf").write_text(shipped)
        (folder / "nginx.conf").write_text(
            AROUND.format(folder=folder, user=pwd.getpwuid(os.getuid()).pw_name)
        )
        nginx = subprocess.Popen(
            ["/usr/sbin/nginx", "-c", str(folder / "nginx.conf"), "-e", str(folder / "start.log")]
        )
        cls.addClassCleanup(nginx.wait)
        cls.addClassCleanup(nginx.terminate)
        until = time.monotonic() + WAIT_S
        while not is_port_taken(cls.port):
            assert nginx.poll() is None and time.monotonic() < until, (folder / "error.log").read_text()
            time.sleep(0.05)
        cls.trust = ssl.create_default_context(cafile=str(folder / "fullchain.pem"))

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
