"""Who may change what about whom: the table, the services that ask it, lists of people, e-mail addresses."""

import re
from pathlib import Path

from django.db import transaction
from django.test import Client, TestCase

from oido.access import emails
from oido.access import services as access
from oido.access.emails import EmailRequest
from oido.access.models import EmailChange
from oido.common.permissions import NotAllowed
from oido.people.authority import OF_STAFF, OF_STUDENTS, Change, Relation, may_add, may_change, may_issue_slip
from oido.people.models import Membership, Role, School, SchoolClass, User
from oido.people.queries import teaches
from oido.post.models import Email
from oido.roster import people
from oido.roster.importing import import_list, store_list, undo_import
from oido.roster.lists import PeopleList, read_text
from oido.roster.models import ListImport
from oido.roster.planning import plan_import
from tests.oido import factories
from tests.oido.factories import PASSWORD

GUIDE = Path(__file__).parents[2] / "docs" / "guide" / "school.md"
ALL_CHANGES = frozenset(Change)
NOBODYS = frozenset[Change]()
OWN = frozenset({Change.EMAIL, Change.PASSWORD, Change.SECOND_FACTOR})
TEACHERS = frozenset({Change.NAME, Change.EMAIL, Change.PASSWORD, Change.CLASS})
OWN_ONLY_IN_TWO = frozenset({Change.CLASS, Change.ROLE, Change.MEMBERSHIP})
EXPECTED: dict[str, dict[str, frozenset[Change]]] = {
    # Whose: who may change what. Whoever is not named may change nothing.
    "student": {"student": OWN, "teacher": TEACHERS, "head": ALL_CHANGES, "colleague": NOBODYS},
    "teacher": {"teacher": OWN | {Change.CLASS}, "colleague": frozenset({Change.CLASS}), "head": ALL_CHANGES},
    "head": {
        "head": ALL_CHANGES,
        "teacher": frozenset({Change.CLASS}),
        "colleague": frozenset({Change.CLASS}),
    },
    "guest": {
        "guest": OWN,
        "teacher": frozenset({Change.CLASS}),
        "head": OWN_ONLY_IN_TWO,
        "foreign head": OWN_ONLY_IN_TWO,
    },
    "archived": {"archived": OWN, "head": ALL_CHANGES},
    "foreign student": {"foreign student": OWN, "foreign head": ALL_CHANGES},
}
"""guest: a student of the teacher's class who belongs to another school, too; archived: a student of an archived class."""


class SchoolTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        elsewhere = School.objects.create(name="Elsewhere")
        cls.people = {
            "head": factories.head(first="Olwen"),
            "teacher": factories.teacher(first="Bram"),
            "colleague": factories.teacher(first="Ines"),
            "student": factories.student(first="Joss"),
            "classmate": factories.student(),
            "stranger": factories.student(first="Maren"),
            "guest": factories.student(),
            "archived": factories.student(),
            "foreign head": factories.head(at=elsewhere),
            "foreign teacher": factories.teacher(at=elsewhere),
            "foreign student": factories.student(at=elsewhere),
        }
        person = cls.people
        Membership.objects.create(school=elsewhere, person=person["guest"], role=Role.STUDENT)
        cls.school_class = factories.school_class(
            teachers=[person["teacher"]], students=[person["student"], person["classmate"], person["guest"]]
        )
        cls.other_class = factories.school_class(
            teachers=[person["colleague"]], students=[person["stranger"]]
        )
        old = factories.school_class(teachers=[person["teacher"]], students=[person["archived"]])
        SchoolClass.objects.filter(pk=old.pk).update(archived_at=old.school.memberships.first().joined_at)

    def person(self, name: str) -> User:
        return User.objects.get(pk=self.people[name].pk)


class WhoMayChangeWhatTest(SchoolTest):
    def test_the_table_over_all_roles_and_two_schools(self) -> None:
        wrong = []
        for whose, allowed in EXPECTED.items():
            for who in self.people:
                actual = {
                    change for change in Change if may_change(self.person(who), self.person(whose), change)
                }
                if actual != allowed.get(who, NOBODYS):
                    wrong.append(f"{who} may change {sorted(actual)} of {whose}")
        self.assertEqual(wrong, [])

    def test_every_service_asks_the_table(self) -> None:
        wrong = []
        for whose in EXPECTED:
            for who in self.people:
                by, person = self.person(who), self.person(whose)
                services = {
                    Change.NAME: lambda by=by, person=person: people.change_details(
                        by, person, first="A", last="B", username=f"x{person.pk}", email=person.email
                    ),
                    Change.EMAIL: lambda by=by, person=person: emails.request_email_changes(
                        by, [EmailRequest(person, "new@school.example")]
                    ),
                    Change.SECOND_FACTOR: lambda by=by, person=person: access.remove_second_factor(
                        person, by=by
                    ),
                    Change.ROLE: lambda by=by, person=person: people.change_role(by, person, Role.TEACHER),
                    Change.MEMBERSHIP: lambda by=by, person=person: people.leave_school(by, person),
                }
                for change, act in services.items():
                    if (who, whose) == ("head", "head") and change in (Change.ROLE, Change.MEMBERSHIP):
                        continue
                    if self.is_done(act) != may_change(by, person, change):
                        wrong.append(f"{change} of {whose} by {who}")
                if self.is_done(lambda by=by, person=person: access.make_code(by, person)) != may_issue_slip(
                    by, person
                ):
                    wrong.append(f"slip of {whose} by {who}")
        self.assertEqual(wrong, [])

    def is_done(self, act) -> bool:
        try:
            with transaction.atomic():
                act()
                transaction.set_rollback(True)
        except NotAllowed:
            return False
        return True

    def test_nobody_pulls_another_teachers_student_into_a_class(self) -> None:
        bram, maren = self.person("teacher"), self.person("stranger")
        self.assertRaises(NotAllowed, people.join_class, bram, maren, self.school_class)
        people.join_class(bram, self.person("colleague"), self.school_class)
        people.join_class(self.person("head"), maren, self.school_class)
        self.assertTrue(may_issue_slip(bram, maren))

    def test_a_name_from_another_school_is_not_shown_by_any_address_of_a_person(self) -> None:
        self.client.force_login(self.person("teacher"))
        foreign = self.person("foreign student")
        for path in ("leave-class", "join-class", "slip", "", "progress"):
            url = f"/people/{foreign.pk}/{path}/".replace("//", "/")
            answer = self.client.post(url, {"class": self.school_class.pk}, follow=True)
            self.assertNotContains(answer, foreign.name, status_code=answer.status_code)
        for person in (foreign, self.person("stranger")):
            answer = self.client.post(f"/people/{person.pk}/leave-class/", {"class": self.school_class.pk})
            self.assertEqual(answer.status_code, 404)

    def test_a_teacher_adds_students_to_a_class_of_their_own_and_nobody_else(self) -> None:
        teacher = self.people["teacher"]
        for role, school_class, allowed in (
            (Role.STUDENT, self.school_class, True),
            (Role.TEACHER, self.school_class, False),
            (Role.HEAD, self.school_class, False),
            (Role.STUDENT, self.other_class, False),
            (Role.STUDENT, None, False),
        ):
            self.assertEqual(may_add(teacher, role, school_class), allowed, role)

    def test_a_head_teaches_in_every_class_of_the_school_and_in_no_other(self) -> None:
        self.assertTrue(teaches(self.people["head"], self.school_class))
        self.assertFalse(teaches(self.people["foreign head"], self.school_class))
        self.assertFalse(teaches(self.people["student"], self.school_class))

    def test_the_guide_prints_the_table(self) -> None:
        words = {
            Change.NAME: "Names and sign-in name", Change.EMAIL: "E-mail address", Change.PASSWORD: "Password",
            Change.SECOND_FACTOR: "Two-step sign-in off", Change.CLASS: "Class", Change.ROLE: "Role",
            Change.MEMBERSHIP: "Leaving and coming back",
        }  # fmt: skip
        columns = (Relation.OWNER, Relation.CLASS_TEACHER, Relation.OTHER_TEACHER, Relation.HEAD)
        text = GUIDE.read_text()
        for kind, table in (("a student’s", OF_STUDENTS), ("a colleague’s", OF_STAFF)):
            for change, allowed in table.items():
                cells = " | ".join("yes" if relation in allowed else "–" for relation in columns)
                self.assertIn(f"| {kind} | {words[change]} | {cells} |", text)


class TeachersListTest(SchoolTest):
    def listed(self, text: str | PeopleList, by: str = "teacher") -> ListImport:
        people_list = read_text(text) if isinstance(text, str) else text
        into = self.school_class if by == "teacher" else None
        return store_list(self.person(by), people_list, file_name="", school_class=into)

    def test_a_teacher_cannot_become_head_by_a_list(self) -> None:
        """The attack: a line with the head's sign-in name and the attacker's address, then a new password by mail."""
        olwen, bram = self.person("head"), Client()
        bram.force_login(self.person("teacher"))
        text = f"username,first name,last name,email\n{olwen.username},Olwen,Hacked,attacker@evil.example\n"
        sent = bram.post("/people/list/", {"text": text, "school_class": self.school_class.pk})
        self.assertContains(bram.get(sent.url), "One for a head to decide")
        bram.post(sent.url, {"row-0": str(olwen.pk)})
        with self.captureOnCommitCallbacks(execute=True):
            Client().post("/password/reset/", {"email": "attacker@evil.example"})
        factories.work_all()
        self.assertEqual(Email.objects.count(), 0)
        self.assertEqual((self.person("head").last_name, self.person("head").email), ("Tester", ""))
        self.assertFalse(self.school_class.students.filter(pk=olwen.pk).exists())

    def test_another_teachers_student_is_a_heads_to_move(self) -> None:
        bram, olwen, maren = self.person("teacher"), self.person("head"), self.person("stranger")
        for line in (f"{maren.username};Maren;Tester", ";Maren;Tester"):
            stored = self.listed(f"Sign-in name;First name;Last name\n{line}\n;Ada;Keel")
            import_list(bram, stored, {0: str(maren.pk)})
            self.assertFalse(self.school_class.students.filter(pk=maren.pk).exists())
            self.assertTrue(self.school_class.students.filter(first_name="Ada").exists())
            waiting = ListImport.objects.get(split_from=stored)
            self.assertRaises(NotAllowed, import_list, bram, waiting, {0: str(maren.pk)})
            with transaction.atomic():
                import_list(olwen, waiting, {0: str(maren.pk)})
                self.assertTrue(self.school_class.students.filter(pk=maren.pk).exists())
                transaction.set_rollback(True)
            # A head undoes anybody's import, and what waited goes with it.
            undo_import(olwen, ListImport.objects.get(pk=stored.pk))
            self.assertFalse(ListImport.objects.filter(split_from=stored).exists())
            self.assertFalse(User.objects.filter(first_name="Ada").exists())

    def test_staff_on_a_teachers_list_are_neither_made_nor_turned_into_students(self) -> None:
        stored = self.listed("Name;Role\nAda Keel;head\nBo Rowe;teacher\nCy Moss;student")
        import_list(self.person("teacher"), stored, {0: "new", 1: "new"})
        self.assertEqual(
            list(
                User.objects.filter(last_name__in=("Keel", "Rowe", "Moss")).values_list(
                    "last_name", flat=True
                )
            ),
            ["Moss"],
        )
        waiting = ListImport.objects.get(split_from=stored)
        self.client.force_login(self.person("head"))
        self.assertContains(self.client.get("/people/"), "waiting for you to decide")
        self.assertContains(self.client.get(f"/people/list/{waiting.pk}/"), "Ada Keel")
        self.client.post(f"/people/list/{waiting.pk}/", {"row-1": "new"})
        self.assertEqual(User.objects.get(last_name="Rowe").membership.role, Role.TEACHER)

    def test_an_archive_keeps_its_own_classes(self) -> None:
        listed = read_text("Name;Class\nAda Keel;Choir\nBo Rowe;\n")
        archive = PeopleList(people=listed.people, is_archive=True)
        stored = store_list(self.person("head"), archive, file_name="", school_class=self.school_class)
        import_list(self.person("head"), stored, {})
        self.assertEqual(
            [c.name for c in User.objects.get(last_name="Keel").classes_attended.all()], ["Choir"]
        )
        self.assertEqual(User.objects.get(last_name="Rowe").classes_attended.count(), 0)
        theirs = PeopleList(
            people=read_text(f"Name;Class\nCy Moss;Choir\nDee Fell;{self.school_class}").people,
            is_archive=True,
        )
        rows = plan_import(self.person("teacher"), self.listed(theirs)).rows
        self.assertEqual([row.needs_head for row in rows], [True, False])

    def test_a_list_changes_no_role_and_joins_members_as_what_they_are(self) -> None:
        joss = self.person("student")
        stored = self.listed(
            f"Sign-in name;Name;Role;Class\n{joss.username};Joss Tester;teacher;Choir", "head"
        )
        [row] = plan_import(self.person("head"), stored).rows
        self.assertTrue(row.keeps_other_role)
        import_list(self.person("head"), stored, {})
        choir = SchoolClass.objects.get(name="Choir")
        self.assertEqual((choir.students.count(), choir.teachers.count()), (1, 0))
        self.assertEqual(self.person("student").membership.role, Role.STUDENT)

    def test_a_teachers_undo_reaches_only_students_who_still_are_hers(self) -> None:
        joss, bram = self.person("student"), self.person("teacher")
        stored = self.listed(f"Sign-in name;First name;Last name\n{joss.username};Jocelyn;Tester")
        import_list(bram, stored, {})
        self.school_class.students.remove(joss)
        self.assertEqual(undo_import(bram, ListImport.objects.get(pk=stored.pk)).kept, ("Jocelyn Tester",))
        self.assertEqual(self.person("student").first_name, "Jocelyn")


class EmailTest(SchoolTest):
    OLD, NEW = "old@school.example", "new@school.example"

    def setUp(self) -> None:
        User.objects.filter(pk=self.people["student"].pk).update(email=self.OLD)

    def asked(self, who: str, whose: str, address: str) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            emails.request_email_changes(self.person(who), [EmailRequest(self.person(whose), address)])
        factories.work_all()

    def link(self) -> str:
        body = Email.objects.get(to=self.NEW).body
        return re.search(r"http://127.0.0.1:8000(/account/email/\S+)", body)[1]

    def test_a_new_address_is_used_once_it_is_confirmed_and_the_old_one_is_told(self) -> None:
        for who in ("student", "teacher", "head"):
            with self.subTest(who=who), transaction.atomic():
                self.asked(who, "student", self.NEW)
                self.assertEqual(self.person("student").email, self.OLD)
                self.assertEqual(set(Email.objects.values_list("to", flat=True)), {self.OLD, self.NEW})
                access.write_reset(self.NEW)
                self.assertFalse(Email.objects.filter(purpose=access.RESET).exists())
                link = self.link()
                self.assertEqual(Client().get(link).status_code, 200)
                self.assertEqual(self.person("student").email, self.OLD)
                self.assertContains(Client().post(link), self.NEW)
                self.assertEqual(self.person("student").email, self.NEW)
                self.assertEqual(Client().post(link).status_code, 410)
                transaction.set_rollback(True)

    def test_a_link_that_another_request_has_replaced_changes_nothing(self) -> None:
        self.asked("student", "student", self.NEW)
        opened = EmailChange.objects.get()
        EmailChange.objects.update(token_hash="of another")
        self.assertFalse(emails.confirm_email_change(opened))
        self.assertEqual(self.person("student").email, self.OLD)

    def test_the_owner_gives_the_password_first(self) -> None:
        self.client.force_login(self.person("student"))
        for said in ({"email": self.NEW}, {"email": self.NEW, "current_password": "wrong"}):
            self.assertEqual(self.client.post("/account/", said).status_code, 422)
        self.assertFalse(hasattr(self.person("student"), "email_change"))
        self.client.post("/account/", {"email": self.NEW, "current_password": PASSWORD})
        self.assertContains(self.client.get("/account/"), self.NEW)
        # A head's own page has no way round it.
        olwen = self.person("head")
        self.client.force_login(olwen)
        said = {"first": "Olwen", "last": "Hart", "username": olwen.username, "email": self.NEW}
        self.client.post(f"/people/{olwen.pk}/", said)
        self.assertFalse(hasattr(self.person("head"), "email_change"))
        stored = store_list(
            olwen,
            read_text(f"username,name,email\n{olwen.username},Olwen Hart,{self.NEW}"),
            file_name="",
            school_class=None,
        )
        import_list(olwen, stored, {})
        self.assertFalse(hasattr(self.person("head"), "email_change"))

    def test_a_request_is_withdrawn_by_the_address_on_file_and_an_address_is_removed_at_once(self) -> None:
        self.asked("head", "student", self.NEW)
        link = self.link()
        self.asked("student", "student", self.OLD)
        self.assertEqual(Client().post(link).status_code, 410)
        self.asked("student", "student", "")
        self.assertEqual(self.person("student").email, "")
        self.assertEqual(Email.objects.filter(to=self.OLD).count(), 2)
        self.assertIsNone(emails.pending_address(self.person("student")))

    def test_letters_are_written_once_however_often_the_job_is_done(self) -> None:
        self.asked("head", "student", self.NEW)
        emails.write_confirmation_emails(lambda *_: None, people=[self.people["student"].pk])
        self.assertEqual(Email.objects.count(), 2)
