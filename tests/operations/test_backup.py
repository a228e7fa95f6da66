"""A backup made while people work, and brought back into an empty place: everything is there, or it says what is not."""

import gzip
import os
import re
import subprocess
import tarfile
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest.mock import patch

from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase

from launch import backing_up
from launch.backing_up import Access, bring_back, make, rotate
from launch.say import GiveUp
from oido.takes.models import Take
from tests.oido import factories


class BackupTest(TransactionTestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="oido-backup-"))
        self.addCleanup(subprocess.run, ["rm", "-rf", str(self.folder)], check=True)
        own = connection.settings_dict
        self.access = Access(
            host=own["HOST"],
            port=int(own["PORT"]),
            name=own["NAME"],
            user=own["USER"],
            password=own["PASSWORD"],
        )
        self.empty = replace(self.access, name=f"test_restored_{os.getpid()}")
        self.sql(f"CREATE DATABASE {self.empty.name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
        self.addCleanup(self.sql, f"DROP DATABASE IF EXISTS {self.empty.name}")
        (self.folder / "data").mkdir()
        (self.folder / "data" / "secret-key").write_text("a-key")
        data = patch.object(backing_up, "DATA", self.folder / "data")
        data.start()
        self.addCleanup(data.stop)
        teacher, student = factories.teacher(first="Älva “Ö”"), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        self.take = factories.take(student, given)

    def sql(self, sql: str) -> list[tuple]:
        with connection.cursor() as cursor:
            cursor.execute(sql)
            return list(cursor.fetchall()) if cursor.description else []

    def checksums(self, name: str, tables: list[str]) -> dict[str, int]:
        found = self.sql("CHECKSUM TABLE " + ", ".join(f"`{name}`.`{table}`" for table in tables))
        return {table.partition(".")[2]: value for table, value in found}

    def test_everything_comes_back(self) -> None:
        file, manifest = make(self.folder, self.access)
        self.assertEqual(file.stat().st_mode & 0o077, 0)
        self.assertEqual(manifest["rows"]["takes_take"], 1)
        bring_back(file, self.empty, folder=self.folder / "new")
        tables = list(manifest["rows"])
        self.assertEqual(self.checksums(self.access.name, tables), self.checksums(self.empty.name, tables))
        self.assertEqual((self.folder / "new" / "secret-key").read_text(), "a-key")
        with tarfile.open(file) as tar:
            self.assertEqual(tar.getnames()[0], "manifest.json")
            sql = gzip.decompress(tar.extractfile("database.sql.gz").read())
        # Cut off anywhere, a restore lacks what shows that a database may be used.
        self.assertEqual(re.findall(rb"CREATE TABLE `(\w+)`", sql)[-1], b"django_migrations")
        self.assertEqual(sorted(one.name for one in self.folder.glob(".oido-*")), [])
        with self.assertRaisesRegex(GiveUp, "not empty"):
            bring_back(file, self.empty, folder=self.folder / "new")

    def test_with_a_key_only_who_has_the_other_one_reads_it(self) -> None:
        identity, key = self.folder / "private", self.folder / "public"
        subprocess.run(["age-keygen", "-o", str(identity)], check=True, capture_output=True)
        key.write_text(
            subprocess.run(
                ["age-keygen", "-y", str(identity)], check=True, capture_output=True, text=True
            ).stdout
        )
        file, _ = make(self.folder, self.access, key=key)
        self.assertNotIn(self.take.student.username.encode(), file.read_bytes())
        with self.assertRaisesRegex(GiveUp, "--identity"):
            bring_back(file, self.empty, folder=self.folder / "new")
        bring_back(file, self.empty, folder=self.folder / "new", identity=identity)
        tables = ["takes_take"]
        self.assertEqual(self.checksums(self.access.name, tables), self.checksums(self.empty.name, tables))

    def test_a_damaged_one_is_refused_before_anything_is_written_and_missing_rows_are_noticed(self) -> None:
        file, _ = make(self.folder, self.access)
        whole = file.read_bytes()
        # Inside the SQL, past the manifest.
        at = whole.index(b"database.sql.gz") + 2000
        for damaged in (
            whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :],
            whole[: len(whole) // 2],
            b"nothing",
        ):
            file.write_bytes(damaged)
            with self.assertRaises(GiveUp):
                bring_back(file, self.empty, folder=self.folder / "new")
        self.assertEqual(self.sql(f"SHOW TABLES IN {self.empty.name}"), [])
        self.assertFalse((self.folder / "new").exists())
        file.write_bytes(whole)
        real = backing_up._query

        def short(access: Access, sql: str) -> list[list[str]]:
            return [["0"]] if "takes_take`" in sql else real(access, sql)

        rows_missing = self.assertRaisesRegex(GiveUp, "takes_take has 0 rows, and should have 1")
        with patch.object(backing_up, "_query", short), rows_missing:
            bring_back(file, self.empty, folder=self.folder / "new")

    def test_it_is_of_one_moment_whatever_is_written_meanwhile(self) -> None:
        real = backing_up.INSERT

        class Meanwhile:
            """While the first rows are read, somebody deletes a take and its student."""

            def match(self, line: bytes):
                if Take.objects.exists():
                    Take.objects.all().delete()
                return real.match(line)

        with patch.object(backing_up, "INSERT", Meanwhile()):
            file, manifest = make(self.folder, self.access)
        self.assertEqual((manifest["rows"]["takes_take"], Take.objects.count()), (1, 0))
        bring_back(file, self.empty, folder=self.folder / "new")

    def test_a_database_that_is_away_leaves_nothing_behind(self) -> None:
        with self.assertRaisesRegex(GiveUp, "cannot be asked"):
            make(self.folder, replace(self.access, password="wrong"))
        self.assertEqual([one.name for one in self.folder.iterdir()], ["data"])


class RotationTest(SimpleTestCase):
    def test_the_oldest_go_and_nothing_else(self) -> None:
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            names = [f"oido-2026120{day}-020000.tar{end}" for day, end in ((1, ""), (2, ".age"), (3, ""))]
            for name in (*names, "notes.txt"):
                (folder / name).touch()
            rotate(folder, 2)
            self.assertEqual(sorted(one.name for one in folder.iterdir()), ["notes.txt", *names[1:]])
