"""Debian's nginx in front of Oido's web processes, by the configuration that is shipped and a certificate made on the spot."""

import os
import pwd
import re
import ssl
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

from launch.database import free_port, is_port_taken
from launch.places import ROOT

NAME = "localhost"
WAIT_S = 20.0
SHIPPED_SERVER = "    server 127.0.0.1:8000;\n"
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


class Nginx:
    """A proxy whose files are in a folder. `port` answers with TLS, `plain_port` leads there, `trust` knows its certificate."""

    def __init__(self, folder: Path, servers: Sequence[str], *, port: int | None = None) -> None:
        """Start it in front of servers, each as host:port, and wait until it answers. Raises RuntimeError."""
        self.folder = folder
        self.port, self.plain_port = port or free_port(), free_port()
        self._make_certificate()
        self.trust = ssl.create_default_context(cafile=str(folder / "fullchain.pem"))
        (folder / "oido.conf").write_text(self._shipped_for_here(servers))
        around = AROUND.format(folder=folder, user=pwd.getpwuid(os.getuid()).pw_name)
        (folder / "nginx.conf").write_text(around)
        self.process = subprocess.Popen(
            ["/usr/sbin/nginx", "-c", str(folder / "nginx.conf"), "-e", str(folder / "start.log")]
        )
        until = time.monotonic() + WAIT_S
        while not is_port_taken(self.port):
            if self.process.poll() is not None or time.monotonic() > until:
                raise RuntimeError((folder / "error.log").read_text())
            time.sleep(0.05)

    def _make_certificate(self) -> None:
        subprocess.run(
            [
                "openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes", "-days", "30",
                "-subj", f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME}",
                "-keyout", str(self.folder / "privkey.pem"), "-out", str(self.folder / "fullchain.pem"),
            ],
            check=True, capture_output=True,
        )  # fmt: skip

    def _shipped_for_here(self, servers: Sequence[str]) -> str:
        """Return the configuration as an IT office would fill it in, with ports and files of this folder."""
        text = (ROOT / "deploy" / "nginx" / "oido.conf").read_text()
        for pattern, here in (
            (re.escape(SHIPPED_SERVER), "".join(f"    server {server};\n" for server in servers)),
            (r"listen \[::\].*", ""),
            (r"listen 80;", f"listen 127.0.0.1:{self.plain_port};"),
            (r"listen 443", f"listen 127.0.0.1:{self.port}"),
            (r"oido\.example\.org", NAME),
            (r"/etc/ssl/oido", str(self.folder)),
        ):
            text, count = re.subn(pattern, here, text)
            if not count:
                raise RuntimeError(f"the configuration that is shipped has no {pattern}")
        return text

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait()
