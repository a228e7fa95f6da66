"""Limits for each person and address: what is too much is refused with a clear page, and nobody else is affected."""

from dataclasses import replace
from datetime import timedelta
from threading import Barrier
from unittest.mock import patch

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone

from oido.limits import middleware
from oido.limits.models import Usage
from oido.limits.rules import LIMITS, Limit, limit_of
from oido.limits.services import count_use, forget_old_usage
from tests.oido import factories
from tests.oido.test_endpoints import patterns

TABLE = {limit.name: limit for limit in LIMITS}


def lowered(**values):
    """Patch the table so that each limit has these values."""

    def find(name: str | None, method: str | None) -> Limit | None:
        limit = limit_of(name, method)
        return limit and replace(limit, **values)

    return patch.object(middleware, "limit_of", find)


class LimitsTest(TestCase):
    def test_the_table_names_addresses_that_exist_each_once(self) -> None:
        named = [name for limit in LIMITS for name in limit.names]
        self.assertEqual(len(named), len(set(named)))
        self.assertLessEqual(set(named), {pattern.name for _route, pattern in patterns()})

    def test_too_many_requests_are_refused_with_the_wait_and_others_are_not_affected(self) -> None:
        teacher, colleague = factories.teacher(), factories.teacher()
        mine, theirs = Client(), Client()
        mine.force_login(teacher)
        theirs.force_login(colleague)
        with lowered(requests=2):
            answers = [mine.post("/exercises/new/") for _ in range(3)]
            self.assertEqual([answer.status_code for answer in answers], [422, 422, 429])
            self.assertEqual(theirs.post("/exercises/new/").status_code, 422)
            self.assertEqual(mine.get("/exercises/new/").status_code, 200)
        self.assertContains(answers[2], "Try again in 24 hours.", status_code=429)
        self.assertContains(answers[2], "your browser still has it", status_code=429)
        self.assertAlmostEqual(int(answers[2]["Retry-After"]), 24 * 3600, delta=5)
        Usage.objects.update(period_began_at=timezone.now() - timedelta(days=1))
        with lowered(requests=2):
            self.assertEqual(mine.post("/exercises/new/").status_code, 422)

    def test_scripts_are_answered_in_the_form_that_they_read(self) -> None:
        client = Client()
        client.force_login(factories.student())
        with lowered(requests=1, period=timedelta(minutes=1)):
            client.post("/stand/1/takes/", "{}", content_type="application/json")
            take = client.post("/stand/1/takes/", "{}", content_type="application/json")
            client.post("/bench/1/do/transpose/", headers={"HX-Request": "true"})
            tool = client.post("/bench/1/do/transpose/", headers={"HX-Request": "true"})
        sentence = "That was too many requests in a short time. Try again in a minute."
        self.assertEqual((take.status_code, take.json()), (429, {"errors": {"limit": [sentence]}}))
        self.assertEqual((tool.status_code, tool.content.decode()), (429, sentence))

    def test_bytes_are_counted_as_well(self) -> None:
        limit = replace(TABLE["file"], bytes=1_000)
        self.assertIsNone(count_use(limit, "7", 600))
        self.assertIsNone(count_use(limit, "7", 400))
        wait = count_use(limit, "7", 1)
        self.assertGreater(wait, timedelta(hours=23))

    def test_people_who_are_signed_out_are_counted_by_address(self) -> None:
        factories.student()
        with lowered(requests=1):
            for address, statuses in (("192.0.2.1", [200, 429]), ("192.0.2.2", [200, 429])):
                wrong = {"username": "nobody", "password": "wrong"}
                answers = [Client(REMOTE_ADDR=address).post("/sign-in/", wrong) for _ in statuses]
                self.assertEqual([answer.status_code for answer in answers], statuses)

    def test_old_counts_are_deleted(self) -> None:
        count_use(TABLE["export"], "7", 0)
        self.assertEqual(forget_old_usage(), 0)
        Usage.objects.update(period_began_at=timezone.now() - timedelta(days=1, seconds=1))
        self.assertEqual(forget_old_usage(), 1)


class ConcurrencyTest(TransactionTestCase):
    def test_requests_at_the_same_time_are_all_counted(self) -> None:
        limit, barrier = TABLE["bench"], Barrier(2)
        waits = []

        def ask() -> None:
            barrier.wait()
            waits.extend(count_use(limit, "7", 0) for _ in range(20))
            connection.close()

        threads = [factories.thread(target=ask) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((Usage.objects.get().requests, waits), (40, [None] * 40))
