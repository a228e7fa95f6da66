"""Settings of an installation: what is wrong is named, what is safe is on, and keys can be changed."""

import os
import re
import tempfile
from configparser import ConfigParser
from pathlib import Path
from unittest.mock import patch

from django.conf import settings
from django.test import SimpleTestCase, TestCase, override_settings

from launch import commands, deploying, processes
from launch.places import ROOT
from launch.say import GiveUp
from oido.access import services as access
from oido.config.env import LAUNCHER_NAMES, BadEnvironment, read_environment
from tests.oido import factories

ONLY_FOR_TESTS = {"OIDO_CHROMIUM", "OIDO_EXAMPLES"}
KEY = "k" * 50
PRODUCTION = {"OIDO_ENV": "production", "OIDO_ADDRESS": "https://oido.example.org/", "OIDO_SECRET_KEY": KEY}


class Asked(dict):
    """Variables that remember which were asked for."""

    def __init__(self, values: dict[str, str]) -> None:
        super().__init__(values)
        self.asked: set[str] = set()

    def get(self, name, default=None):
        self.asked.add(name)
        return super().get(name, default)


class EnvironmentTest(SimpleTestCase):
    def test_the_example_names_each_variable_that_is_read_and_no_other(self) -> None:
        values = Asked({"OIDO_SECRET_KEY": KEY})
        read_environment(values)
        example = (ROOT / ".env.example").read_text()
        named = re.findall(r"^#?(OIDO_[A-Z_]+)=", example, re.MULTILINE)
        self.assertEqual(len(named), len(set(named)))
        self.assertEqual(set(named), (values.asked | LAUNCHER_NAMES) - ONLY_FOR_TESTS)

    def test_what_is_wrong_is_named(self) -> None:
        for wrong, name in (
            ({"OIDO_SECRET_KEY": ""}, "OIDO_SECRET_KEY"),
            ({"OIDO_DEBUG": "maybe"}, "OIDO_DEBUG"),
            ({"OIDO_DB_PORT": "here"}, "OIDO_DB_PORT"),
            ({"OIDO_PROXIES": "the proxy"}, "OIDO_PROXIES"),
            ({"OIDO_LOG": "LOUD"}, "OIDO_LOG"),
            ({"OIDO_ENV": "live"}, "OIDO_ENV"),
            ({"OIDO_ADRESS": "https://oido.example.org"}, "OIDO_ADRESS"),
        ):
            with self.subTest(name), self.assertRaisesMessage(BadEnvironment, name):
                read_environment({"OIDO_SECRET_KEY": KEY, **wrong})

    def test_production_refuses_what_is_not_safe(self) -> None:
        for wrong, name in (
            ({"OIDO_ADDRESS": ""}, "OIDO_ADDRESS"),
            ({"OIDO_ADDRESS": "http://oido.example.org"}, "OIDO_ADDRESS"),
            ({"OIDO_ADDRESS": "https://oido.example.org/oido"}, "OIDO_ADDRESS"),
            ({"OIDO_SECRET_KEY": "short"}, "OIDO_SECRET_KEY"),
            ({"OIDO_DEMO": "yes"}, "OIDO_DEMO"),
            ({"OIDO_DEBUG": "yes"}, "OIDO_DEBUG"),
            ({"OIDO_HSTS_DAYS": "0"}, "OIDO_HSTS_DAYS"),
        ):
            with self.subTest(wrong), self.assertRaisesMessage(BadEnvironment, name):
                read_environment({**PRODUCTION, **wrong})
        made = read_environment(PRODUCTION)
        self.assertEqual(
            (made.own_address, made.allowed_hosts), ("https://oido.example.org", ("oido.example.org",))
        )

    def test_a_file_of_settings_is_read_with_comments_and_quotes_and_its_wrong_line_is_named(self) -> None:
        file = Path(tempfile.mkstemp(prefix="oido-")[1])
        self.addCleanup(file.unlink)
        file.write_text(
            "# A comment\n\nOIDO_ENV=production\nOIDO_MAIL_FROM = \"Oido <oido@example.org>\"\nOIDO_HOSTS='a,b'\n"
        )
        self.assertEqual(
            deploying.read_settings(file),
            {"OIDO_ENV": "production", "OIDO_MAIL_FROM": "Oido <oido@example.org>", "OIDO_HOSTS": "a,b"},
        )
        file.write_text("OIDO_ENV=production\nOIDO_HOSTS oido.example.org\n")
        with self.assertRaisesRegex(GiveUp, "line 2"):
            deploying.read_settings(file)
        self.assertEqual(deploying.read_settings(file.with_suffix(".none")), {})


class KeyTest(TestCase):
    def test_a_new_key_goes_before_old_ones_and_the_oldest_goes(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="oido-"))
        with (
            patch.object(processes, "DATA", folder),
            patch.dict(os.environ, {"OIDO_SECRET_KEY": ""}),
            patch.object(deploying, "SETTINGS", folder / "none"),
            patch.object(deploying, "say"),
        ):
            first = processes.own_environment()["OIDO_SECRET_KEY"]
            self.assertEqual(processes.own_environment()["OIDO_SECRET_KEY"], first)
            for _ in range(deploying.MAX_OLD_KEYS):
                deploying.rotate_key([])
            env = processes.own_environment()
            self.assertNotEqual(env["OIDO_SECRET_KEY"], first)
            self.assertEqual(env["OIDO_OLD_SECRET_KEYS"].split(",")[-1], first)
            deploying.rotate_key([])
            self.assertNotIn(first, processes.own_environment()["OIDO_OLD_SECRET_KEYS"])
            self.assertEqual((folder / "secret-key").stat().st_mode & 0o077, 0)
            with patch.dict(os.environ, {"OIDO_SECRET_KEY": KEY}), self.assertRaises(GiveUp):
                deploying.rotate_key([])

    def test_who_is_signed_in_stays_so_and_a_slip_still_opens_after_a_rotation(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        factories.school_class(teachers=[teacher], students=[student])
        self.client.force_login(teacher)
        code = access.make_code(teacher, student)
        old = settings.SECRET_KEY
        with override_settings(SECRET_KEY=KEY, SECRET_KEY_FALLBACKS=[old]):
            self.assertEqual(self.client.get("/").status_code, 200)
            self.assertEqual(access.person_of_code(code).person, student)
        with override_settings(SECRET_KEY=KEY, SECRET_KEY_FALLBACKS=[]):
            self.assertIsNone(access.person_of_code(code))


class ShippedTest(SimpleTestCase):
    """What is shipped to deploy with says what the application does."""

    def test_each_unit_starts_a_command_that_there_is(self) -> None:
        units = sorted((ROOT / "deploy" / "systemd").glob("*.service"))
        started = set()
        for unit in units:
            read = ConfigParser(strict=False, interpolation=None)
            read.optionxform = str
            read.read(unit)
            started.add(read["Service"]["ExecStart"].split()[-1])
            self.assertEqual(read["Service"]["Restart"], "always", unit.name)
        self.assertEqual(started, {"serve", "work", "schedule"})
        compose = (ROOT / "deploy" / "compose.yaml").read_text()
        named = set(re.findall(r"command: \[(\w[\w-]*)\]", compose))
        self.assertEqual(named, {"migrate", "work", "schedule"})
        for command in started | named:
            self.assertRegex(commands.HELP, rf"\b{command}\b")

    def test_proxies_let_through_what_the_server_takes(self) -> None:
        for file, pattern in (
            ("nginx/oido.conf", r"client_max_body_size (\d+)m"),
            ("caddy/Caddyfile", r"max_size (\d+)MB"),
        ):
            most = int(re.search(pattern, (ROOT / "deploy" / file).read_text())[1]) * 1_000_000
            self.assertGreater(most, settings.DATA_UPLOAD_MAX_MEMORY_SIZE, file)
