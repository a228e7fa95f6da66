"""The audit of lock files: a known fault in a locked version is named."""

import sys
from unittest import TestCase
from unittest.mock import patch

from launch.places import ROOT

with patch.object(sys, "path", [str(ROOT / "tools"), *sys.path]):
    import audit

FIXED_TWICE = [{"introduced": "1.0"}, {"fixed": "1.4.2"}, {"introduced": "2.0"}, {"fixed": "2.1"}]


class AuditTest(TestCase):
    def test_a_version_is_affected_from_where_a_fault_came_in_until_it_was_mended(self) -> None:
        for version, is_affected in (
            ("0.9", False), ("1.0", True), ("1.4.1", True), ("1.4.2", False), ("2.0.5", True), ("2.1", False), ("10.0", False),
        ):  # fmt: skip
            with self.subTest(version):
                self.assertEqual(audit.is_affected(version, FIXED_TWICE), is_affected)

    def test_a_locked_version_with_a_known_fault_is_named(self) -> None:
        package = {"ecosystem": "PyPI", "name": "Some_Library"}
        record = {
            "id": "TEST-1", "summary": "It opens every door",
            "affected": [{"package": package, "ranges": [{"events": FIXED_TWICE}]}],
        }  # fmt: skip
        faults = [
            *audit.known_faults([record], {("PyPI", "some-library"): "1.2", ("npm", "some-library"): "1.2"})
        ]
        self.assertEqual(faults, ["Some_Library 1.2: TEST-1, It opens every door"])
        self.assertEqual([*audit.known_faults([record], {("PyPI", "some-library"): "1.5"})], [])

    def test_every_library_that_is_locked_is_looked_at(self) -> None:
        locked = audit.locked_versions()
        self.assertIn(("PyPI", "django"), locked)
        self.assertIn(("npm", "bootstrap"), locked)
