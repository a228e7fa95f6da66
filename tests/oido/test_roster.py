"""Who comes into a school and how, who is moved and leaves; lists looked at, imported, undone; what is remembered of it."""

import io
import zipfile
from datetime import timedelta
from unittest import TestCase as PlainTestCase

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from hypothesis import given, settings
from hypothesis import strategies as st

from ear.errors import FormatError
from oido.assignments.models import Assignment
from oido.audit.acts import ACTS
from oido.audit.models import Act
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.marking.services import accept
from oido.people.models import Membership, Role, School, SchoolClass, User
from oido.post.models import Email
from oido.roster import classes, joining, people
from oido.roster.importing import AS_NEW, import_list, store_list, undo_import
from oido.roster.list_files import read_list
from oido.roster.lists import PeopleList, read_text, split_name
from oido.roster.models import Invitation, JoinCode, ListImport
from oido.roster.people import LastHead, NameTaken, sign_in_names
from oido.roster.planning import Status, plan_import
from oido.takes.models import Take
from tests.oido import factories

NEW = "lantern-orchard-7"
HEAD_ROW = "First name;Last name;Class;E-mail\n"


def archive(**files: str) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as made:
        for name, text in files.items():
            made.writestr(f"export/{name}.csv", text)
    return buffer.getvalue()


class ListsTest(PlainTestCase):
    def names(self, actual: PeopleList) -> list[tuple[str, str]]:
        return [(one.first, one.last) for one in actual.people]

    def test_separators_and_encodings_that_spreadsheets_write(self) -> None:
        rows = [["First name", "Last name", "Class"], ["Jürgen", "Müß-Łoś", "5a"], ["Zoé", "Núñez", "5b"]]
        for separator in "\t;,|":
            for encoding in ("utf-8", "utf-8-sig", "utf-16"):
                for end in ("\n", "\r\n", "\r"):
                    data = end.join(separator.join(row) for row in rows).encode(encoding)
                    with self.subTest(separator=separator, encoding=encoding, end=end):
                        self.assertEqual(
                            self.names(read_list(data)), [("Jürgen", "Müß-Łoś"), ("Zoé", "Núñez")]
                        )
        text = "Vorname;Nachname;Klasse\nJürgen;Müller;5a\nZoé;Núñez;5b\nBjörn;Österreich;5b\nRené;Façon;5a\n"
        for encoding in ("cp1252", "mac_roman"):
            with self.subTest(encoding=encoding):
                self.assertEqual(
                    self.names(read_list(text.encode(encoding)))[:2], [("Jürgen", "Müller"), ("Zoé", "Núñez")]
                )

    def test_windows_of_the_east_is_told_from_that_of_the_west(self) -> None:
        text = "Imię;Name;Class\n1;Łukasz Żółtowski;5a\n2;Agnieszka Świątek;5a\n3;Paweł Gołębiewski;5b\n"
        self.assertEqual(self.names(read_list(text.encode("cp1250")))[0], ("Łukasz", "Żółtowski"))

    def test_names_without_headings(self) -> None:
        self.assertEqual(
            self.names(read_text("Ada Marie Keel\n\nRowe, Tomas\nCher")),
            [("Ada Marie", "Keel"), ("Tomas", "Rowe"), ("Cher", "")],
        )
        self.assertEqual(
            self.names(read_text("Ada\tKeel\nTomas\tRowe")), [("Ada", "Keel"), ("Tomas", "Rowe")]
        )

    def test_wrong_lines_are_told_by_number_and_reason(self) -> None:
        actual = read_text(
            HEAD_ROW + "Ada;Keel;5a;\n;;5a;\n\nBo;Rowe;5a;not an address\n" + "x" * 151 + ";Long;5a;\n"
        )
        self.assertEqual(
            [(one.line, one.code) for one in actual.wrong],
            [(3, "no_name"), (5, "bad_email"), (6, "name_too_long")],
        )
        roles = read_text("Name,Role\nAda Keel,wizard\nBo Rowe,TEACHER")
        self.assertEqual([one.code for one in roles.wrong], ["unknown_role"])
        self.assertEqual(roles.people[0].role, "teacher")

    def test_control_characters_are_refused_by_line(self) -> None:
        actual = read_text(HEAD_ROW + "Ada;Keel;5a;\nBo\x07;Rowe;5a;\n")
        self.assertEqual([(one.line, one.code) for one in actual.wrong], [(3, "control_character")])

    def test_lists_are_read_no_further_than_they_may_be_long(self) -> None:
        for text in (
            ";" * 2_000_000,
            "a;b\n" * 500_000,
            "\n" * 1_999_000 + "Ada Keel",
            "First name;Last name\n" + "a;b\n" * 5001,
        ):
            self.assertRaises(FormatError, read_text, text)

    def test_quoted_cells_over_lines_keep_the_number_of_their_line(self) -> None:
        actual = read_text('Name;Class\n"Keel,\nAda";5a\n;5b')
        self.assertEqual((self.names(actual), [one.line for one in actual.wrong]), ([("Ada", "Keel")], [4]))

    def test_one_person_in_several_lines_is_one(self) -> None:
        actual = read_text("ID;Name;Class\n7;Ada Keel;5a\n7;Ada Keel;Choir\n8;Ada Keel;5b")
        self.assertEqual(
            [(one.source_id, one.class_names) for one in actual.people],
            [("7", ("5a", "Choir")), ("8", ("5b",))],
        )

    def test_oneroster(self) -> None:
        users = "sourcedId,status,enabledUser,username,givenName,familyName,email\nu1,active,true,ada,Ada,Keel,\nu2,active,true,ines,Ines,Calder,i@s.example\nu3,tobedeleted,true,gone,Gone,Away,\n"
        data = archive(
            users=users, roles="sourcedId,userSourcedId,role\nr1,u1,student\nr2,u2,teacher\n",
            classes="sourcedId,title\nc1,Tuesday Keys\n",
            enrollments="sourcedId,classSourcedId,userSourcedId,role\ne1,c1,u1,student\ne2,c1,u2,teacher\n",
        )  # fmt: skip
        actual = read_list(data)
        self.assertEqual(
            [(one.source_id, one.username, one.role, one.class_names) for one in actual.people],
            [("u1", "ada", "student", ("Tuesday Keys",)), ("u2", "ines", "teacher", ("Tuesday Keys",))],
        )
        self.assertEqual([(one.name, one.code) for one in actual.left_out], [("Gone Away", "deleted")])
        self.assertTrue(actual.is_archive)
        lost = read_list(
            archive(users=users, enrollments="sourcedId,classSourcedId,userSourcedId\ne1,c9,u1\n")
        )
        self.assertEqual(
            [(one.file, one.line, one.code) for one in lost.wrong],
            [
                ("enrollments.csv", 2, "unknown_class"),
                ("users.csv", 2, "no_role"),
                ("users.csv", 3, "no_role"),
            ],
        )
        for bad in (archive(people="x"), archive(users="name\nx"), b"PK\x03\x04 broken"):
            with self.assertRaises(FormatError):
                read_list(bad)

    def test_oneroster_roles_come_from_whichever_file_has_them(self) -> None:
        people = "u1,{},Ada,Keel\nu2,{},Ines,Calder\nu3,{},Olwen,Hart\nu4,{},Pat,Keel\n"
        head = "sourcedId,role,givenName,familyName\n"
        given = ("student", "teacher", "administrator", "guardian")
        roles = "sourcedId,userSourcedId,role\n" + "".join(
            f"r{n},u{n},{role}\n" for n, role in enumerate(given, 1)
        )
        enrolled = "sourcedId,classSourcedId,userSourcedId,role\ne1,c1,u1,student\ne2,c1,u2,teacher\n"
        classes = "sourcedId,title\nc1,Keys\n"
        nothing = head + people.format("", "", "", "")
        for files, expected in (
            ({"users": nothing, "roles": roles}, ["student", "teacher", "head"]),
            ({"users": head + people.format(*given)}, ["student", "teacher", "head"]),
            ({"users": nothing, "classes": classes, "enrollments": enrolled}, ["student", "teacher"]),
        ):
            with self.subTest(files=list(files)):
                actual = read_list(archive(**files))
                self.assertEqual([person.role for person in actual.people], expected)
                told = len(actual.people) + len(actual.wrong) + len(actual.left_out)
                self.assertEqual(told, 4)

    @given(st.binary(max_size=400) | st.text(max_size=200).map(str.encode))
    @settings(max_examples=150)
    def test_whatever_is_sent_is_read_or_refused(self, data: bytes) -> None:
        try:
            actual = read_list(data)
        except FormatError:
            return
        self.assertTrue(all(one.first or one.last for one in actual.people))

    @given(
        st.lists(
            st.tuples(
                st.from_regex(r"[A-Za-zé]{1,8}", fullmatch=True),
                st.from_regex(r"[A-Za-zé]{1,8}", fullmatch=True),
            ),
            min_size=1,
            max_size=6,
        )
    )
    @settings(max_examples=60)
    def test_names_come_back_from_either_way_of_writing_them(self, names: list[tuple[str, str]]) -> None:
        for first, last in names:
            self.assertEqual(
                (split_name(f"{first} {last}"), split_name(f"{last}, {first}")), ((first, last),) * 2
            )


class RosterTest(TestCase):
    def setUp(self) -> None:
        self.head, self.teacher, self.student = factories.head(), factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])

    def listed(self, text: str, by: User | None = None, into: SchoolClass | None = None) -> ListImport:
        return store_list(by or self.head, read_text(text), file_name="a.csv", school_class=into)

    def test_a_list_is_looked_at_imported_once_and_undone(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel", username="ada")
        self.school_class.students.add(ada)
        before = set(User.objects.values_list("username", "first_name", "email"))
        text = f"Sign-in name;First name;Last name;Class;E-mail\nada;Ada Marie;Keel;{self.school_class};ada@s.example\n;Bo;Rowe;Choir;\n;Bo;Rowe;Choir;\n"
        stored = self.listed(text)
        plan = plan_import(self.head, stored)
        self.assertEqual([row.status for row in plan.rows], [Status.CHANGED, Status.NEW, Status.NEW])
        self.assertEqual((plan.new_classes, plan.not_listed), (("Choir",), (self.student,)))
        self.assertEqual(set(User.objects.values_list("username", "first_name", "email")), before)
        for _ in range(2):
            import_list(self.head, stored, {})
        ada.refresh_from_db()
        self.assertEqual((ada.first_name, ada.email), ("Ada Marie", ""))
        self.assertEqual(ada.email_change.address, "ada@s.example")
        choir = SchoolClass.objects.get(name="Choir")
        self.assertEqual(sorted(choir.students.values_list("username", flat=True)), ["bo.rowe", "bo.rowe2"])
        self.assertTrue(self.school_class.students.filter(pk=self.student.pk).exists())
        again = plan_import(self.head, self.listed(text))
        self.assertEqual([row.status for row in again.rows], [Status.SAME] * 3)
        undone = undo_import(self.head, ListImport.objects.get(pk=stored.pk))
        self.assertEqual((undone.removed, undone.kept), (2, ()))
        self.assertEqual(set(User.objects.values_list("username", "first_name", "email")), before)
        self.assertFalse(SchoolClass.objects.filter(name="Choir").exists())
        self.assertEqual(
            [act.code for act in Act.objects.filter(code__contains="import")],
            ["import_undone", "list_imported"],
        )

    def test_undoing_leaves_who_has_signed_in_or_recorded_since(self) -> None:
        stored = import_list(self.head, self.listed("Ada Keel\nBo Rowe"), {})
        ada = User.objects.get(first_name="Ada")
        User.objects.filter(pk=ada.pk).update(last_login=timezone.now())
        undone = undo_import(self.head, stored)
        self.assertEqual((undone.removed, undone.kept), (1, ("Ada Keel",)))
        self.assertRaises(NotAllowed, undo_import, self.head, stored)

    def test_doubtful_lines_are_a_persons_to_decide(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel")
        for said, new, in_class in (
            ("leave", 0, False),
            (AS_NEW, 1, False),
            (str(ada.pk), 0, True),
            ("999999", 0, False),
        ):
            with self.subTest(said=said):
                stored = self.listed("Ada Keel", self.head, self.school_class)
                [row] = plan_import(self.head, stored).rows
                self.assertEqual((row.status, row.candidates), (Status.DOUBTFUL, (ada,)))
                count = User.objects.count()
                import_list(self.head, stored, {row.number: said})
                self.assertEqual(User.objects.count() - count, new)
                self.assertEqual(self.school_class.students.filter(pk=ada.pk).exists(), in_class)
                undo_import(self.head, ListImport.objects.get(pk=stored.pk))

    def test_a_doubtful_line_that_nobody_decides_is_left_out(self) -> None:
        people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel")
        stored = self.listed("Ada Keel", self.head, self.school_class)
        count = User.objects.count()
        import_list(self.head, stored, {})
        self.assertEqual(User.objects.count(), count)

    def test_two_lines_that_change_one_person_are_undone_to_the_name_before_both(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel", username="ada")
        Membership.objects.filter(person=ada).update(source_id="7")
        stored = self.listed("ID;Sign-in name;First name;Last name\n;ada;Ada Marie;Keel\n7;;Ada;Kiel\n")
        [_, second] = plan_import(self.head, stored).rows
        self.assertEqual(second.status, Status.DOUBTFUL)
        import_list(self.head, stored, {second.number: str(ada.pk)})
        ada.refresh_from_db()
        self.assertEqual(ada.get_full_name(), "Ada Marie Kiel")
        undo_import(self.head, ListImport.objects.get(pk=stored.pk))
        ada.refresh_from_db()
        self.assertEqual(ada.get_full_name(), "Ada Keel")

    def test_two_lines_of_a_name_that_one_student_of_the_class_has_are_doubtful(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel")
        self.school_class.students.add(ada)
        for lines, status in (("Ada Keel", Status.SAME), ("Ada Keel\nAda Keel", Status.DOUBTFUL)):
            rows = plan_import(self.head, self.listed(lines, into=self.school_class)).rows
            self.assertEqual({row.status for row in rows}, {status}, lines)

    def test_the_second_line_that_means_a_person_is_doubtful(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="Ada", last="Keel", username="ada")
        Membership.objects.filter(person=ada).update(source_id="7")
        self.school_class.students.add(ada)
        head = "ID;Sign-in name;Name;Class\n"
        by_username, by_id = (f"{start};Ada Keel;{self.school_class}\n" for start in (";ada", "7;"))
        other = f";;Ada Keel;{self.school_class}\n"
        for lines in ((by_username, by_id), (by_id, by_username), (by_username, other), (other, by_username)):
            with self.subTest(lines=lines):
                rows = plan_import(self.head, self.listed(head + "".join(lines))).rows
                self.assertEqual({row.status for row in rows}, {Status.SAME, Status.DOUBTFUL})
                self.assertEqual(next(row for row in rows if row.status == Status.SAME).person, ada)
                certain = 1 if lines[0] == other else 0
                self.assertEqual(rows[certain].status, Status.SAME)

    def test_a_wrong_list_changes_nothing_and_says_which_line(self) -> None:
        self.client.force_login(self.head)
        count = User.objects.count()
        page = self.client.post("/people/list/", {"text": HEAD_ROW + "Ada;Keel;5a;\n;;5a;\n"})
        self.assertContains(page, "Line 3: there is no name.", status_code=422)
        self.assertContains(page, "Ada;Keel;5a", status_code=422)
        for text in ("", "\x00", "First name;Last name\n"):
            self.assertEqual(self.client.post("/people/list/", {"text": text}).status_code, 422)
        self.assertEqual((User.objects.count(), ListImport.objects.count()), (count, 0))

    def test_the_pages_of_a_list(self) -> None:
        self.client.force_login(self.head)
        file = io.BytesIO((HEAD_ROW + "Ada;Keel;Choir;\n").encode("utf-16"))
        file.name = "list.csv"
        sent = self.client.post("/people/list/", {"file": file})
        self.assertContains(self.client.get(sent.url), "One new class: Choir")
        self.client.post(sent.url)
        self.assertContains(self.client.get(sent.url), "One person was added")
        self.client.post(f"{sent.url}undo/")
        self.assertContains(self.client.get(sent.url), "The import is undone")

    def test_a_long_list_is_a_job(self) -> None:
        self.client.force_login(self.head)
        text = HEAD_ROW + "".join(f"First{k};Last;Choir;\n" for k in range(201))
        sent = self.client.post("/people/list/", {"text": text})
        asked = self.client.post(sent.url, {"row-0": "leave"})
        self.assertIn("/jobs/", asked.url)
        factories.work_all()
        self.assertContains(self.client.get(asked.url), "Go on")
        self.assertEqual(SchoolClass.objects.get(name="Choir").students.count(), 201)
        # As many slips as there are people: their keys are no key of a job.
        slips = self.client.post(f"/classes/{SchoolClass.objects.get(name='Choir').pk}/slips/")
        self.assertIn("/jobs/", slips.url)

    def test_queries_do_not_grow_with_the_list(self) -> None:
        counts = []
        for size in (5, 60):
            stored = self.listed(HEAD_ROW + "".join(f"First{size}x{k};Last;Choir;\n" for k in range(size)))
            with CaptureQueriesContext(connection) as counted:
                import_list(self.head, stored, {})
            counts.append(len(counted))
        self.assertLessEqual(counts[1], counts[0])

    def test_sign_in_names(self) -> None:
        people.add_person(self.head, role=Role.STUDENT, first="Ruža", last="Kele-Man")
        self.assertEqual(
            sign_in_names(["Ruža Kele-Man", "Ruža Kele-Man", "Ann", "李 明"]),
            ["ruza.kele-man2", "ruza.kele-man3", "ann", "member"],
        )
        with self.assertRaises(NameTaken):
            people.add_person(self.head, role=Role.STUDENT, first="X", last="Y", username="RUZA.kele-man")

    def test_leaving_and_coming_back(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        take = factories.handed_in(self.student, given)
        client = Client()
        client.force_login(self.student)
        people.leave_school(self.head, self.student)
        self.assertEqual(client.get("/").status_code, 302)
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), self.student.name)
        self.assertNotContains(
            self.client.get(f"/classes/{self.school_class.pk}/"), f"/people/{self.student.pk}/"
        )
        people.return_to_school(self.head, User.objects.get(pk=self.student.pk))
        client.force_login(self.student)
        self.assertEqual(client.get("/").status_code, 200)
        for by in (self.teacher, self.student, factories.head(at=School.objects.create(name="Elsewhere"))):
            self.assertRaises(NotAllowed, people.leave_school, by, self.student)

    def test_moving_a_student(self) -> None:
        other = factories.school_class(teachers=[self.teacher], students=[])
        foreign = factories.school_class(teachers=[factories.teacher()], students=[])
        with self.assertRaises(NotAllowed):
            people.move_student(self.teacher, self.student, out_of=self.school_class, into=foreign)
        archived = factories.school_class(teachers=[self.teacher], students=[])
        SchoolClass.objects.filter(pk=archived.pk).update(archived_at=timezone.now())
        archived.refresh_from_db()
        with self.assertRaises(NotAllowed):
            people.move_student(self.teacher, self.student, out_of=self.school_class, into=archived)
        self.assertTrue(self.school_class.students.exists())
        self.client.force_login(self.teacher)
        self.client.post(
            f"/people/{self.student.pk}/leave-class/", {"class": self.school_class.pk, "into": other.pk}
        )
        self.assertEqual([c.students.count() for c in (self.school_class, other)], [0, 1])

    def test_a_class_keeps_a_teacher_and_a_school_a_head(self) -> None:
        self.assertRaises(NotAllowed, people.leave_class, self.teacher, self.teacher, self.school_class)
        self.assertRaises(LastHead, people.leave_school, self.head, self.head)
        self.assertRaises(LastHead, people.change_role, self.head, self.head, Role.TEACHER)
        people.change_role(self.head, self.teacher, Role.HEAD)
        people.change_role(self.head, self.head, Role.TEACHER)
        self.assertEqual(Membership.objects.filter(role=Role.HEAD).count(), 1)

    def test_joining_by_code(self) -> None:
        code = joining.open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1))
        client = Client()
        self.assertRedirects(
            client.post("/join/", {"code": code.code.lower().replace("-", " ")}), f"/join/{code.code}/"
        )
        said = {"first": "Ada", "last": "Keel", "username": "", "password1": NEW, "password2": NEW}
        self.assertEqual(client.post(f"/join/{code.code}/", {**said, "password1": "x"}).status_code, 422)
        self.assertRedirects(client.post(f"/join/{code.code}/", said), "/")
        ada = User.objects.get(username="ada.keel")
        self.assertEqual(list(ada.classes_attended.all()), [self.school_class])
        client.post(f"/join/{code.code}/")
        self.assertEqual(code.joined.count(), 1)
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get(f"/classes/{self.school_class.pk}/"), "Joined with this code:")
        # Somebody of another school comes in as who they are there.
        elsewhere = School.objects.create(name="Elsewhere")
        guest = factories.student(at=elsewhere)
        other = Client()
        other.force_login(guest)
        self.assertRedirects(other.post(f"/join/{code.code}/"), "/")
        self.assertEqual(guest.memberships.count(), 2)
        self.assertContains(other.get("/account/"), "Go to Elsewhere")
        staff = Client()
        staff.force_login(self.head)
        self.assertContains(staff.post(f"/join/{code.code}/"), "You teach in this school", status_code=422)
        joining.close_code(self.teacher, self.school_class)
        self.assertEqual(Client().get(f"/join/{code.code}/").status_code, 404)
        again = joining.open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1))
        JoinCode.objects.filter(pk=again.pk).update(ends_at=timezone.now())
        self.assertIsNone(joining.class_code(again.code))
        # A page that was open while the code ran out.
        self.assertRaises(NotAllowed, joining.join_by_code, factories.student(), again)
        self.assertRaises(
            NotAllowed, joining.open_code, factories.teacher(), self.school_class, ends_at=timezone.now()
        )

    def test_invitations(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            joining.invite(self.head, email="new@school.example", role=Role.TEACHER)
        letter = Email.objects.get()
        link = next(line for line in letter.body.split("\n") if "/invitation/" in line).removeprefix(
            "http://127.0.0.1:8000"
        )
        self.assertTrue(letter.is_secret)
        self.assertNotIn(link.strip("/").split("/")[-1], str(list(Invitation.objects.values())))
        client = Client()
        said = {"first": "Bram", "last": "Vale", "username": "bram", "password1": NEW, "password2": NEW}
        self.assertRedirects(client.post(link, said), "/")
        self.assertEqual(client.get("/classes/").status_code, 200)
        self.assertEqual(Client().get(link).status_code, 410)
        self.assertEqual(User.objects.get(username="bram").email, "new@school.example")
        self.assertRaises(NotAllowed, joining.invite, self.teacher, email="x@s.example", role=Role.HEAD)
        made = joining.invite(
            self.teacher, email="y@s.example", role=Role.STUDENT, school_class=self.school_class
        )
        self.client.force_login(self.teacher)
        self.client.post(f"/people/invitations/{made.pk}/withdraw/")
        self.assertFalse(Invitation.objects.get(pk=made.pk).is_open)

    def test_slips_are_printed_for_those_who_never_signed_in(self) -> None:
        self.client.force_login(self.teacher)
        asked = self.client.post(f"/classes/{self.school_class.pk}/slips/")
        factories.work_all()
        self.assertEqual(self.client.get(f"{asked.url}file/").content[:4], b"%PDF")
        self.assertEqual(self.student.sign_in_codes.count(), 1)
        User.objects.update(last_login=timezone.now())
        self.assertRedirects(
            self.client.post(f"/classes/{self.school_class.pk}/slips/"), f"/classes/{self.school_class.pk}/"
        )

    def test_classes_are_made_renamed_ordered_archived_and_brought_forward(self) -> None:
        self.client.force_login(self.teacher)
        made = self.client.post("/classes/", {"name": "Choir"})
        self.assertContains(
            self.client.post("/classes/", {"name": "CHOIR"}), "Choose another", status_code=422
        )
        choir = SchoolClass.objects.get(name="Choir")
        self.assertRedirects(made, f"/classes/{choir.pk}/")
        self.client.post(f"/classes/{choir.pk}/up/")
        self.assertEqual([c.name for c in SchoolClass.objects.all()], ["Choir", self.school_class.name])
        self.client.post(f"/classes/{choir.pk}/name/", {"name": "Evening Choir"})
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        forward = self.client.post(f"/classes/{self.school_class.pk}/forward/", {"next_name": "Next year"})
        new = SchoolClass.objects.get(name="Next year")
        self.assertRedirects(forward, f"/classes/{new.pk}/")
        self.assertEqual((list(new.students.all()), new.assignments.count()), ([self.student], 0))
        self.assertContains(self.client.get("/classes/?show=archive"), self.school_class.name)
        self.assertContains(self.client.get(f"/classes/{self.school_class.pk}/"), "archived")
        # What was given in an archived class is no longer asked for, and nothing more is given there.
        student = Client()
        student.force_login(self.student)
        self.assertNotContains(student.get("/"), given.exercise.title)
        self.client.post(f"/classes/{self.school_class.pk}/archive/")
        self.assertContains(student.get("/"), given.exercise.title)
        self.client.post(f"/classes/{new.pk}/teachers/", {"person": self.head.pk})
        self.assertEqual(new.teachers.count(), 2)
        with self.assertRaises(NameTaken):
            classes.rename_class(self.teacher, new, "evening choir")

    def test_a_class_with_open_work_is_archived_only_when_confirmed(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        factories.handed_in(self.student, given)
        accepted = factories.assignment(factories.exercise(self.teacher), self.school_class)
        accept(self.teacher, factories.handed_in(self.student, accepted))
        self.client.force_login(self.teacher)
        url = f"/classes/{self.school_class.pk}/"
        for path, data in (("archive/", {}), ("forward/", {"next_name": "Next year"})):
            answer = self.client.post(url + path, data)
            self.assertContains(answer, "One take in this class is still to be marked.", status_code=422)
            self.assertContains(answer, "One accepted mark is not released.", status_code=422)
            self.assertContains(answer, f'action="{url}{path}"', status_code=422)
            self.school_class.refresh_from_db()
            self.assertIsNone(self.school_class.archived_at)
        self.assertContains(answer, 'name="next_name" value="Next year"', status_code=422)
        self.assertEqual(SchoolClass.objects.filter(name="Next year").count(), 0)
        self.client.post(f"{url}forward/", {"next_name": "Next year", "even_so": "1"})
        self.school_class.refresh_from_db()
        self.assertIsNotNone(self.school_class.archived_at)

    def test_a_large_class_comes_in_pages(self) -> None:
        students = [factories.student() for _ in range(70)]
        self.school_class.students.add(*students, through_defaults={"joined_at": None})
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        Assignment.objects.filter(pk=given.pk).update(due_at=timezone.now() - timedelta(days=1))
        self.client.force_login(self.teacher)
        for path in (f"/classes/{self.school_class.pk}/", f"/classes/{self.school_class.pk}/progress/"):
            first, second = self.client.get(path), self.client.get(f"{path}?page=2")
            self.assertContains(first, "Page 1 of 2")
            self.assertLess(len(second.context["page"]), len(first.context["page"]))
        self.assertContains(self.client.get(f"/classes/{self.school_class.pk}/"), "more students")

    def test_the_page_of_a_class_says_who_is_behind_and_asks_no_more_for_larger_ones(self) -> None:
        counts = []
        for more in (0, 6):
            students = [factories.student() for _ in range(more)]
            self.school_class.students.add(*students, through_defaults={"joined_at": None})
            given = factories.assignment(factories.exercise(self.teacher), self.school_class)
            given.due_at = timezone.now() - timedelta(days=1)
            given.save()
            for student in (self.student, *students[:1]):
                factories.handed_in(student, given)
            self.client.force_login(self.teacher)
            with CaptureQueriesContext(connection) as counted:
                page = self.client.get(f"/classes/{self.school_class.pk}/")
            counts.append(len(counted))
        self.assertEqual(counts[0], counts[1])
        self.assertContains(page, "Behind")
        behind = page.context["overview"].behind
        self.assertEqual([len(pupil.behind) for pupil in behind], [2, 2, 2, 2, 2, 1])
        self.assertContains(page, "Print 7 slips")

    def test_older_lines_come_page_by_page_also_of_one_moment(self) -> None:
        for _ in range(120):
            remember("class_made", actor=self.head)
        Act.objects.update(at=timezone.now())
        client = Client()
        client.force_login(self.head)
        seen: list[int] = []
        address = "/school/trail/?code=class_made"
        for count in (50, 50, 20):
            page = client.get(address)
            self.assertEqual(len(page.context["acts"]), count)
            seen += [act.pk for act in page.context["acts"]]
            address = f"/school/trail/?code=class_made&before={page.context['before']}"
        self.assertIsNone(page.context["before"])
        self.assertEqual(seen, sorted(set(seen), reverse=True))
        self.assertEqual(len(client.get("/school/trail/?before=x").context["acts"]), 50)

    def test_what_was_done_is_remembered_narrowed_and_downloaded(self) -> None:
        ada = people.add_person(self.head, role=Role.STUDENT, first="=Ada", last="Keel")
        client = Client(REMOTE_ADDR="192.0.2.7")
        client.force_login(self.head)
        client.post(f"/people/{ada.pk}/", {"first": "=Ada", "last": "Rowe", "username": "ada", "email": ""})
        page = client.get("/school/trail/?who=ada&code=person_renamed")
        self.assertContains(page, "changed the name or sign-in name of =Ada Rowe")
        self.assertContains(page, "192.0.2.7")
        self.assertContains(client.get("/school/trail/?code=class_made"), "No entries match")
        # Days are those of the school, which the database need not know.
        School.objects.update(time_zone="Pacific/Auckland")
        with timezone.override("Pacific/Auckland"):
            today = timezone.localdate()
        narrowed = f"/school/trail/?since={today}&until={today}&code=person_renamed"
        self.assertContains(client.get(narrowed), "=Ada Rowe")
        tomorrow = today + timedelta(days=1)
        self.assertContains(client.get(f"/school/trail/?since={tomorrow}"), "No entries match")
        csv = b"".join(client.get("/school/trail.csv").streaming_content).decode()
        self.assertTrue(csv.startswith("\ufeffwhen,who,what,address"))
        self.assertIn("192.0.2.7", csv)
        elsewhere = Client()
        elsewhere.force_login(factories.head(at=School.objects.create(name="Elsewhere")))
        self.assertNotContains(elsewhere.get("/school/trail/"), "Rowe")

    def test_every_act_that_is_remembered_has_a_sentence(self) -> None:
        for code in ACTS:
            values = dict.fromkeys(
                ("role", "before", "receipt", "new", "changed", "n", "title", "criterion", "name"), "x"
            )
            said = Act(code=code, values=values).text
            self.assertNotIn("%(", said)

    def test_due_dates_are_meant_in_the_schools_zone(self) -> None:
        School.objects.update(time_zone="Pacific/Auckland")
        self.client.force_login(self.teacher)
        exercise = factories.exercise(self.teacher)
        day = (timezone.now() + timedelta(days=3)).date()
        self.client.post(
            f"/exercises/{exercise.pk}/give/",
            {
                f"class-{self.school_class.pk}-chosen": "on",
                "due_on": day.isoformat(),
                "late": "taken",
                "seen": "reading",
            },
        )
        due = exercise.assignments.get().due_at
        with timezone.override("Pacific/Auckland"):
            self.assertEqual(timezone.localtime(due).strftime("%Y-%m-%d %H:%M"), f"{day} 23:59")
        self.assertNotEqual(due.hour, 23)
        self.client.force_login(self.head)
        self.assertEqual(
            self.client.post("/school/", {"name": "S", "time_zone": "Mars/Base"}).status_code, 422
        )


class AtOnceTest(TransactionTestCase):
    def test_two_heads_who_leave_at_once_leave_one_behind(self) -> None:
        heads = [factories.head(), factories.head()]
        ended: list[str] = []

        def leave(who: User) -> None:
            try:
                people.leave_school(who, who)
                ended.append("left")
            except LastHead:
                ended.append("stays")
            finally:
                connection.close()

        threads = [factories.thread(target=leave, args=(who,)) for who in heads]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(ended), ["left", "stays"])

    def test_a_list_that_is_imported_twice_at_once_is_imported_once(self) -> None:
        head = factories.head()
        stored = store_list(head, read_text("Ada Keel\nBo Rowe"), file_name="", school_class=None)

        def imported() -> None:
            try:
                import_list(head, stored, {})
            finally:
                connection.close()

        threads = [factories.thread(target=imported) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(User.objects.filter(last_name__in=["Keel", "Rowe"]).count(), 2)


class SchoolPageTest(TestCase):
    def test_the_head_sees_what_to_look_at_and_is_led_there(self) -> None:
        head, teacher, student = factories.head(), factories.teacher(), factories.student()
        self.client.force_login(head)
        User.objects.update(last_login=timezone.now())
        self.assertNotContains(self.client.get("/school/"), "Needs attention")
        User.objects.filter(pk=student.pk).update(last_login=None)
        assignment = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        take = factories.handed_in(student, assignment)
        Take.objects.filter(pk=take.pk).update(handed_in_at=timezone.now() - timedelta(days=8))
        page = self.client.get("/school/")
        self.assertContains(page, "1 head, 1 teacher, 1 student")
        self.assertContains(page, "One person has never signed in.")
        self.assertContains(page, "One take has been waiting to be marked for more than a week.")
        listed = self.client.get("/people/?show=never")
        self.assertContains(listed, student.username)
        self.assertNotContains(listed, teacher.username)
