"""The demo school loads whole, once, and holds what it promises."""

import io

from django.core.management import call_command
from django.db.models import F
from django.test import Client, TestCase

from oido.demo.accounts import ACCOUNTS, PASSWORD
from oido.exercises.models import Exercise
from oido.marking.models import MarkSheet
from oido.people.models import Membership, Role, SchoolClass, User
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take


class DemoTest(TestCase):
    def test_the_school_is_there_once(self) -> None:
        call_command("load_demo")
        counts = (User.objects.count(), Take.objects.count())
        call_command("load_demo", stdout=io.StringIO())
        self.assertEqual((User.objects.count(), Take.objects.count()), counts)
        self.assertEqual(Membership.objects.filter(role=Role.TEACHER).count(), 2)
        self.assertEqual([c.students.count() for c in SchoolClass.objects.all()], [12, 12])
        self.assertEqual(Exercise.objects.filter(kind="keyboard").count(), 20)
        self.assertEqual(Exercise.objects.filter(kind="drums").count(), 4)
        self.assertTrue(MarkSheet.objects.filter(released_at__isnull=False).exists())
        self.assertTrue(MarkSheet.objects.filter(released_at__isnull=True).exists())
        for take in Take.objects.select_related("judgement__measurement"):
            self.assertFalse(judged(take).facts.take.is_foreign, take)
        # Everything came in by its day, whenever the school is loaded.
        self.assertFalse(MarkSheet.objects.filter(late_days__gt=0).exists())
        late = HandIn.objects.filter(first_at__gt=F("assignment__due_at"))
        self.assertFalse(late.exists())
        for account in ACCOUNTS:
            said = {"username": account.username, "password": PASSWORD}
            self.assertEqual(Client().post("/sign-in/", said).status_code, 302)
            self.client.force_login(User.objects.get(username=account.username))
            self.assertEqual(self.client.get("/").status_code, 200)
