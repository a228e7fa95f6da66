"""A MariaDB of the project's own, on loopback."""

import os
import pwd
import secrets
import shutil
import socket
import subprocess
from dataclasses import dataclass
from pathlib import Path

from launch.install import run
from launch.say import GiveUp, patiently, step

STOP_SECONDS = 20
CONFIGURATION = """[mariadbd]
datadir={data}
tmpdir={temporary}
socket={socket}
pid-file={data}/mariadbd.pid
log-error={data}/mariadbd.log
bind-address=127.0.0.1
port={port}
skip-name-resolve
character-set-server=utf8mb4
collation-server=utf8mb4_unicode_ci
sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION
transaction-isolation=READ-COMMITTED
innodb-flush-log-at-trx-commit={durable}
innodb-buffer-pool-size=64M
max-allowed-packet=64M
performance-schema=OFF
"""


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def is_port_taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.settimeout(0.5)
        return probe.connect_ex(("127.0.0.1", port)) == 0


@dataclass(slots=True, kw_only=True)
class Database:
    """One MariaDB with its data in a folder. Start, use, stop."""

    folder: Path
    port: int
    is_throwaway: bool = False
    process: subprocess.Popen[bytes] | None = None

    @property
    def data(self) -> Path:
        return self.folder / "mariadb"

    @property
    def temporary(self) -> Path:
        """For tables that a query builds on the way. Shared with another server, each deletes those of the other."""
        return self.folder / "tmp"

    @property
    def _log(self) -> Path:
        return self.data / "mariadbd.log"

    @property
    def socket(self) -> Path:
        # A socket's path has to be short: it does not stand below a deep project folder.
        return Path("/tmp") / f"oido-{os.getuid()}-{self.port}.sock"

    @property
    def _password_file(self) -> Path:
        return self.folder / "database-password"

    @property
    def has_password(self) -> bool:
        """Has it been started before?"""
        return self._password_file.exists()

    @property
    def password(self) -> str:
        file = self._password_file
        if not file.exists():
            self.folder.mkdir(parents=True, exist_ok=True)
            file.touch(mode=0o600)
            file.write_text(secrets.token_urlsafe(24))
        return file.read_text()

    def start(self) -> None:
        if is_port_taken(self.port):
            raise GiveUp(
                f"port {self.port} is taken, so the database cannot start; "
                f"is Oido running already? Else choose another: OIDO_DB_PORT={self.port + 1} ./oido start"
            )
        is_new = not (self.data / "mysql").is_dir()
        if is_new:
            with step("database"):
                self._make()
        self._write_configuration()
        program = shutil.which("mariadbd") or "/usr/sbin/mariadbd"
        self.process = subprocess.Popen(
            [program, f"--defaults-file={self.folder / 'my.cnf'}", f"--user={_user()}"],
            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            start_new_session=True,
        )  # fmt: skip
        self._wait()
        try:
            self._grant()
        except GiveUp as problem:
            self.stop()
            raise GiveUp(
                f"the database does not answer as it should; its log says why: {self._log}\n{problem}"
            ) from problem

    def _make(self) -> None:
        # A folder that was made only halfway is of no use to anybody.
        shutil.rmtree(self.data, ignore_errors=True)
        self.folder.mkdir(parents=True, exist_ok=True)
        run(
            [
                "mariadb-install-db", "--no-defaults", f"--user={_user()}", f"--datadir={self.data}",
                "--auth-root-authentication-method=normal", "--skip-test-db",
            ],
            log="mariadb-install",
        )  # fmt: skip

    def _write_configuration(self) -> None:
        text = CONFIGURATION.format(
            data=self.data,
            temporary=self.temporary,
            socket=self.socket,
            port=self.port,
            durable=0 if self.is_throwaway else 1,
        )
        self.temporary.mkdir(exist_ok=True)
        (self.folder / "my.cnf").write_text(text)

    def _wait(self) -> None:
        assert self.process is not None
        for _ in patiently("the database is starting"):
            if self.process.poll() is not None:
                raise GiveUp(f"the database did not start; its log says why: {self._log}")
            if self.socket.exists() and is_port_taken(self.port):
                return

    def _grant(self) -> None:
        sql = (
            "CREATE DATABASE IF NOT EXISTS oido CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;"
            f"CREATE USER IF NOT EXISTS 'oido'@'127.0.0.1' IDENTIFIED BY '{self.password}';"
            f"ALTER USER 'oido'@'127.0.0.1' IDENTIFIED BY '{self.password}';"
            "GRANT ALL ON oido.* TO 'oido'@'127.0.0.1';"
            "GRANT ALL ON `test\\_%`.* TO 'oido'@'127.0.0.1';"
        )
        run(
            ["mariadb", "--no-defaults", f"--socket={self.socket}", "--user=root", "--execute", sql],
            log="mariadb-grant",
        )

    def stop(self) -> None:
        if self.process is None or self.process.poll() is not None:
            return
        self.process.terminate()
        try:
            self.process.wait(STOP_SECONDS)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()

    def environment(self) -> dict[str, str]:
        return {
            "OIDO_DB_HOST": "127.0.0.1",
            "OIDO_DB_PORT": str(self.port),
            "OIDO_DB_PASSWORD": self.password,
        }


def _user() -> str:
    return pwd.getpwuid(os.getuid()).pw_name
