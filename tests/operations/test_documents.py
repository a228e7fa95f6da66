"""What documents of operation promise is there."""

import re
from importlib import import_module

from django.test import SimpleTestCase

from launch.places import ROOT

NAMED = re.compile(r"`((?:oido|operations|launch|ear)\.test_[\w.]+)`")


class DocumentsTest(SimpleTestCase):
    def test_each_threat_names_a_test_that_there_is(self) -> None:
        lines = [
            line for line in (ROOT / "docs" / "threats.md").read_text().splitlines() if line.startswith("| ")
        ]
        answered = [line for line in lines if not line.startswith(("| threat", "|---"))]
        self.assertGreater(len(answered), 25)
        for line in answered:
            names = NAMED.findall(line)
            self.assertTrue(names, line)
            for name in names:
                module, case, method = f"tests.{name}".rsplit(".", 2)
                self.assertTrue(callable(getattr(getattr(import_module(module), case), method, None)), name)
