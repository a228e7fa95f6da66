"""What one school may keep: refused with a reason where it is full, and nothing that was recorded is lost."""

from datetime import timedelta
from io import StringIO

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client, TestCase, TransactionTestCase, override_settings
from django.utils import timezone

from oido.operations.background import count_takes
from oido.people.models import Membership, Role, School, User
from oido.people.quotas import NoRoom, people_quota
from oido.roster import joining, lists
from oido.roster.importing import import_list, store_list
from oido.roster.people import add_person, leave_school, return_to_school
from oido.takes.models import Take
from tests.oido import factories


class QuotaTest(TestCase):
    def setUp(self) -> None:
        self.head, self.teacher, self.student = factories.head(), factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.school = factories.school()
        self.client.force_login(self.head)

    def test_no_way_in_goes_past_the_quota_of_people(self) -> None:
        code = joining.open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1))
        outsider = User.objects.create_user("outsider")
        gone = factories.student()
        leave_school(self.head, gone)
        many = store_list(
            self.head,
            lists.read_text("first,last,role\nAda,Fen,student\nBo,Fen,student"),
            file_name="",
            school_class=None,
        )
        call_command("set_quota", self.school.name, people=4, stdout=StringIO())
        self.head.school.refresh_from_db()
        with self.assertRaises(NoRoom):
            import_list(self.head, many, {})
        add_person(self.head, role=Role.STUDENT, first="Cy", last="Fen")
        for enter in (
            lambda: add_person(self.head, role=Role.STUDENT, first="Di", last="Fen"),
            lambda: joining.join_by_code(outsider, code),
            lambda: return_to_school(self.head, gone),
        ):
            with self.assertRaises(NoRoom):
                enter()
        self.assertEqual(people_quota(self.school).used, 4)
        # Somebody who is here already can join another class.
        joining.join_by_code(self.student, code)

    def test_pages_say_why_beside_the_form(self) -> None:
        code = joining.open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1))
        School.objects.update(max_people=3)
        page = self.client.post("/people/add/", {"role": "student", "first": "Di", "last": "Fen"})
        self.assertContains(page, "limit of 3 members", status_code=422)
        self.assertContains(page, "Di", status_code=422)
        account = {
            "first": "Eve",
            "last": "Fen",
            "password1": factories.PASSWORD,
            "password2": factories.PASSWORD,
            "username": "eve",
        }
        self.assertContains(
            Client().post(f"/join/{code.code}/", account), "limit of 3 members", status_code=422
        )
        self.assertFalse(User.objects.filter(username="eve").exists())
        page = self.client.get("/school/")
        self.assertContains(page, "Members 3 of 3")
        self.assertContains(page, "You are close to your limit")

    def test_takes_beyond_the_quota_stay_in_the_browser_until_there_is_room(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        factories.take(self.student, given)
        count_takes(lambda done, total: None)
        School.objects.update(max_takes=1)
        with self.assertRaises(NoRoom):
            factories.take(User.objects.get(pk=self.student.pk), given)
        with override_settings(SCHOOL_MAX_TAKES=5):
            School.objects.update(max_takes=None)
            factories.take(User.objects.get(pk=self.student.pk), given)
        self.assertEqual(Take.objects.count(), 2)

    def test_the_command_names_what_is_wrong(self) -> None:
        for arguments in (["No such school"], [self.school.name, "--people=-1"]):
            with self.assertRaises(CommandError):
                call_command("set_quota", *arguments, stdout=StringIO())
        out = StringIO()
        call_command("set_quota", self.school.name, "--takes=9", "--people=0", stdout=out)
        self.assertEqual(out.getvalue(), "members: 3 of any number\ntakes: 0 of 9\n")
        self.assertEqual(Membership.everywhere.count(), 3)


class AtOnceTest(TransactionTestCase):
    def test_of_two_who_are_added_at_once_to_the_last_place_one_gets_it(self) -> None:
        head = factories.head()
        School.objects.update(max_people=2)
        refused = []

        def add(first: str) -> None:
            try:
                add_person(head, role=Role.STUDENT, first=first, last="Fen")
            except NoRoom:
                refused.append(first)
            finally:
                connection.close()

        threads = [factories.thread(target=add, args=(first,)) for first in ("Ada", "Bo")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((len(refused), people_quota(factories.school()).used), (1, 2))
