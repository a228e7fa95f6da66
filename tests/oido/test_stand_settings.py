"""What a student has set at the Stand: kept for the person, the newest of each."""

import json

from django.db import connection
from django.test import TestCase, TransactionTestCase

from oido.stand.bodies import SETTINGS_BYTES
from oido.takes.at_stand import MAX_KEPT, save_settings, settings_of
from tests.oido import factories


class StandSettingsTest(TestCase):
    def setUp(self) -> None:
        self.student = factories.student()
        self.client.force_login(self.student)

    def send(self, body: object):
        return self.client.post("/stand/settings/", json.dumps(body), content_type="application/json")

    def test_the_newest_of_each_stays_and_only_its_owner_has_it(self) -> None:
        self.assertEqual(
            self.send({"kept": {"tempo-1": [200, 80], "source": [100, "midi"]}}).status_code, 204
        )
        self.assertEqual(
            self.send({"kept": {"tempo-1": [150, 60], "source": [300, "screen"]}}).status_code, 204
        )
        self.assertEqual(settings_of(self.student), {"tempo-1": [200, 80], "source": [300, "screen"]})
        self.assertEqual(settings_of(factories.student()), {})

    def test_nonsense_is_refused_and_the_oldest_go(self) -> None:
        for body in (
            {},
            {"kept": []},
            {"kept": {"a": 5}},
            {"kept": {"x" * 50: [1, 2]}},
            {"kept": {"a": [1, "x" * SETTINGS_BYTES]}},
        ):
            self.assertEqual(self.send(body).status_code, 422, body)
        save_settings(self.student, {f"tempo-{k}": (float(k), 80) for k in range(MAX_KEPT + 10)})
        kept = settings_of(self.student)
        self.assertEqual(
            (len(kept), "tempo-9" in kept, f"tempo-{MAX_KEPT + 9}" in kept), (MAX_KEPT, False, True)
        )


class TwoMachinesTest(TransactionTestCase):
    def test_two_machines_at_once_lose_nothing(self) -> None:
        student = factories.student()

        def send(name: str) -> None:
            save_settings(student, {name: (1.0, 1)})
            connection.close()

        threads = [factories.thread(target=send, args=(f"tempo-{k}",)) for k in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(settings_of(student)), 6)
