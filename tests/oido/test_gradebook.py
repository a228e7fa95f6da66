"""The gradebook: what counts, what is entered and remembered, what leaves it."""

import csv
import io
import re
import zipfile
from datetime import timedelta
from decimal import Decimal
from unittest.mock import patch

from django.test import Client, TestCase
from django.utils import timezone
from openpyxl import load_workbook

from oido.assignments import services as giving
from oido.assignments.models import Assignment
from oido.assignments.queries import counted
from oido.assignments.services import Arranged
from oido.classes.overview import overview_of
from oido.common.cells import BOM
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from oido.gradebook import services
from oido.gradebook.book import book_of
from oido.gradebook.models import Column, Entry, EntryChange
from oido.gradebook.services import NotAMark, Typed, read_typed
from oido.gradebook.term_report import describe_sum, term_report
from oido.leaving.models import Term
from oido.marking import services as marking
from oido.marking.hand_in import hand_in
from oido.marking.models import MarkSheet
from oido.people.models import Membership, User
from oido.takes.models import Take
from tests.oido import factories

QUERIES = 11


class JoiningTest(TestCase):
    """A student who joins, leaves or moves in the middle of a term."""

    def setUp(self) -> None:
        self.teacher, self.ada, self.ben = factories.teacher(), factories.student(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.ada])
        self.other = factories.school_class(teachers=[self.teacher], students=[])
        exercise = factories.exercise(self.teacher)
        self.old, self.new = (factories.assignment(exercise, self.school_class) for _ in range(2))
        factories.handed_in(self.ada, self.old)
        Assignment.objects.filter(pk=self.old.pk).update(due_at=timezone.now() - timedelta(days=1))
        self.client.force_login(self.teacher)

    def join(self, student: User) -> None:
        self.school_class.students.add(student)

    def counts(self) -> list[tuple[int, int]]:
        rows = counted(Assignment.objects.filter(school_class=self.school_class).order_by("due_at"))
        return [(row.handed_in, row.students) for row in rows]

    def states(self, student: User) -> list[str]:
        [row] = [row for row in book_of(self.school_class).rows if row.student == student]
        return [cell.state for cell in row.cells]

    def test_what_was_due_before_a_student_joined_does_not_count(self) -> None:
        self.join(self.ben)
        self.assertEqual(self.states(self.ben), ["not-given", "open"])
        self.assertEqual(self.counts(), [(1, 1), (0, 2)])
        overview = overview_of(self.school_class)
        self.assertEqual([pupil.student for pupil in overview.behind], [])
        self.assertEqual(giving.remind(self.teacher, self.old, [self.ben]), [])
        self.assertNotContains(self.client.get(f"/assignments/{self.old.pk}/who/"), self.ben.name)
        self.client.force_login(self.ben)
        self.assertContains(self.client.get("/"), "due before you joined the class")
        # Given more time, the student is asked after all.
        later = timezone.now() + timedelta(days=2)
        giving.arrange(self.teacher, self.old, self.ben, Arranged(due_at=later))
        self.assertEqual((self.states(self.ben), self.counts()), (["open", "open"], [(1, 2), (0, 2)]))

    def test_after_a_move_counts_fit_and_the_student_sees_earlier_work(self) -> None:
        answer = self.client.post(
            f"/people/{self.ada.pk}/leave-class/",
            {"class": self.school_class.pk, "into": self.other.pk},
            follow=True,
        )
        self.assertContains(answer, f"Takes and marks stay with {self.school_class}")
        self.assertEqual(self.counts(), [(1, 1), (0, 0)])
        self.client.force_login(self.ada)
        home = self.client.get("/")
        self.assertContains(home, "From earlier classes")
        take = Take.objects.get()
        self.assertContains(home, f"/takes/{take.pk}/")
        report = self.client.get(f"/takes/{take.pk}/")
        self.assertNotContains(report, f"/stand/{self.old.pk}/")

    def test_students_of_the_beginning_and_those_given_it_by_name_are_asked(self) -> None:
        self.join(self.ben)
        giving.give_exercise(
            self.teacher,
            factories.exercise(self.teacher),
            self.school_class,
            due_at=timezone.now() - timedelta(days=3),
            students=[self.ben],
        )
        self.assertEqual((self.states(self.ben)[0], self.states(self.ada)[0]), ("missing", "not-given"))
        self.assertEqual(self.counts()[0], (0, 1))


class GradebookTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.students = [factories.student(first=name) for name in ("Ada", "Ben", "Cem", "Dee")]
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.exercise = factories.exercise(cls.teacher)
        cls.given = factories.assignment(cls.exercise, cls.school_class)
        cls.take = factories.handed_in(cls.students[0], cls.given)
        marking.accept(cls.teacher, cls.take)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)
        self.url = f"/classes/{self.school_class.pk}/marks/"

    def concert(self, **more) -> Column:
        facts = {"name": "Concert", "out_of": 20, "weight": Decimal(2), "on": timezone.localdate(), **more}
        return services.add_column(self.teacher, self.school_class, **facts)

    def cells(self) -> dict[str, list[str]]:
        return {
            row.student.first_name: [c.state for c in row.cells] for row in book_of(self.school_class).rows
        }

    def type_in(self, key: str, student, typed: str, why: str = ""):
        url = f"{self.url}{key}/{student.pk}/"
        return self.client.post(url, {"typed": typed, "why": why}, headers={"Accept": "application/json"})

    def test_what_stands_in_a_cell(self) -> None:
        _ada, ben, cem, _dee = self.students
        factories.handed_in(ben, self.given)
        giving.arrange(self.teacher, self.given, cem, Arranged(is_excused=True))
        self.assertEqual(
            self.cells(), {"Ada": ["mark"], "Ben": ["waiting"], "Cem": ["excused"], "Dee": ["open"]}
        )
        Assignment.objects.filter(pk=self.given.pk).update(due_at=timezone.now() - timedelta(days=1))
        self.assertEqual(self.cells()["Dee"], ["missing"])
        means = {row.student.first_name: row.mean.value for row in book_of(self.school_class).rows}
        self.assertEqual((means["Ben"], means["Cem"], means["Dee"]), (None, None, 0.0))
        giving.withdraw(self.teacher, self.given, is_withdrawn=True)
        self.assertEqual(self.cells()["Dee"], [])

    def test_who_is_excused_is_not_missing_and_what_was_asked_for_again_does_not_wait(self) -> None:
        _ada, ben, cem, dee = self.students
        # To have recorded something is not to have handed it in: Dee is still to.
        factories.take(dee, self.given)
        poor = factories.handed_in(ben, self.given)
        giving.arrange(self.teacher, self.given, cem, Arranged(is_excused=True))

        def counts() -> tuple[int, int, int]:
            [actual] = counted(Assignment.objects.filter(pk=self.given.pk))
            return actual.handed_in, actual.students, actual.waiting

        self.assertEqual(counts(), (2, 3, 1))
        User.objects.filter(pk=ben.pk).update(erased_as="member 7")
        self.assertEqual(counts(), (2, 3, 0), "nobody marks what is left of somebody erased")
        User.objects.filter(pk=ben.pk).update(erased_as="")
        marking.ask_again(self.teacher, poor, why="Slower, please.")
        self.assertEqual(counts(), (2, 3, 0))

    def test_takes_handed_in_together_have_the_mean_of_their_marks(self) -> None:
        dee = self.students[3]
        factories.allow(self.given, least_takes=2, handed_in_takes=2)
        good, poor = factories.take(dee, self.given), factories.take(dee, self.given, events=[])
        hand_in(dee, good, poor)
        points = [Take.objects.get(pk=one.pk).sheet.points for one in (good, poor)]
        self.assertGreater(points[0], points[1])
        [row] = book_of(self.school_class, student=dee).rows
        self.assertEqual(row.cells[0].points, round(sum(points) / 2, 2))

    def test_a_mark_is_typed_and_the_row_comes_back(self) -> None:
        ada = self.students[0]
        concert = self.concert()
        answer = self.type_in(f"c{concert.pk}", ada, "17,5", "played from memory").json()
        self.assertEqual((answer["shown"], answer["state"], answer["isEntered"]), ("17.5", "mark", True))
        own = book_of(self.school_class, student=ada).rows[0]
        percent = own.cells[1].percent if own.cells[1].column.assignment else own.cells[0].percent
        expected = (percent + 2 * 87.5) / 3
        self.assertAlmostEqual(own.mean.value, expected, delta=0.051)
        self.assertEqual(answer["means"][-1], f"{own.mean.value:.1f}")
        self.assertTrue(describe_sum(own.mean).endswith(f"÷ 3 = {own.mean.value:g}"))

    def test_an_assignments_cell_is_overruled_and_given_back(self) -> None:
        ada = self.students[0]
        key, before = f"a{self.given.pk}", book_of(self.school_class, student=ada).rows[0].mean.value
        self.assertEqual(self.type_in(key, ada, "e").json()["state"], "excused")
        self.assertEqual(self.type_in(key, ada, "m").json()["means"][-1], "0.0")
        self.assertEqual(self.type_in(key, ada, "50").json()["means"][-1], "50.0")
        # The cell says what stands there, whence, and how the mean comes about, in figures that can be added up.
        concert = f"c{self.concert().pk}"
        Column.objects.filter(pk=concert[1:]).update(weight=Decimal("0.5"), out_of=20)
        self.type_in(concert, ada, "19")
        look = self.client.get(f"{self.url}{key}/{ada.pk}/")
        for said in ("Entered by hand:", "(0.5 × 95 + 1 × 50) ÷ 1.5 = 65"):
            self.assertContains(look, said)
        self.type_in(concert, ada, "")
        self.type_in(key, ada, "")
        self.assertEqual(book_of(self.school_class, student=ada).rows[0].mean.value, before)
        told = [
            (c.before, c.after)
            for c in EntryChange.objects.filter(column__assignment=self.given).order_by("pk")
        ]
        self.assertEqual(told, [("", "e"), ("e", "m"), ("m", "50"), ("50", "")])
        page = self.client.get(f"{self.url}{key}/{ada.pk}/")
        self.assertContains(page, self.teacher.name)
        self.assertContains(page, "accepted")

    def test_what_is_no_mark_is_said_and_changes_nothing(self) -> None:
        concert = self.concert()
        for typed in ("21", "-3", "abc", "1e9", "NaN", "Infinity", "١٧x", "9" * 12):
            answer = self.type_in(f"c{concert.pk}", self.students[0], typed)
            self.assertEqual(answer.status_code, 422, typed)
            self.assertIn("from 0 to 20", answer.json()["errors"]["typed"][0]["message"])
        self.assertFalse(Entry.objects.exists())
        self.assertEqual(read_typed(" 3.456 ", out_of=20), Typed(state="mark", points=Decimal("3.46")))
        with self.assertRaises(NotAMark):
            services.change_column(
                self.teacher, self._with_mark(concert), weight=Decimal(1), out_of=5, name="C", on=concert.on
            )

    def _with_mark(self, column: Column) -> Column:
        services.enter(self.teacher, column, self.students[0], read_typed("19", out_of=20))
        return column

    def test_columns_are_made_weighed_and_deleted(self) -> None:
        wrong = self.client.post(
            f"{self.url}columns/", {"name": "", "on": "2026-11-01", "out_of": "0", "weight": "1"}
        )
        self.assertEqual(wrong.status_code, 422)
        self.client.post(
            f"{self.url}columns/", {"name": "Test", "on": "2026-11-01", "out_of": "30", "weight": "0.5"}
        )
        made = Column.objects.get()
        self.client.post(f"{self.url}a{self.given.pk}/", {"weight": "3"})
        self.assertEqual(
            [one.weight for one in book_of(self.school_class).columns], [Decimal("0.5"), Decimal(3)]
        )
        self.client.post(f"{self.url}c{made.pk}/", {"delete": "1"})
        self.assertEqual([one.key for one in book_of(self.school_class).columns], [f"a{self.given.pk}"])
        self.assertEqual(self.client.get(f"{self.url}c{made.pk}/").status_code, 404)

    def test_means_of_terms(self) -> None:
        today = timezone.localdate()
        school = self.school_class.school
        Term.objects.create(
            school=school, name="Before", begins_on=today - timedelta(90), ends_on=today - timedelta(30)
        )
        Term.objects.create(
            school=school, name="Now", begins_on=today - timedelta(29), ends_on=today + timedelta(60)
        )
        early = self.concert(on=today - timedelta(40))
        services.enter(self.teacher, early, self.students[1], read_typed("10", out_of=20))
        book = book_of(self.school_class)
        self.assertEqual([term.name for term in book.terms], ["Before", "Now"])
        self.assertEqual([mean.value for mean in book.rows[1].terms], [50.0, None])
        self.assertContains(self.client.get(self.url), "Before")

    def test_somebody_elses_class_and_student(self) -> None:
        concert = self.concert()
        with self.assertRaises(NotAllowed):
            services.enter(factories.teacher(), concert, self.students[0], None)
        with self.assertRaises(NotAllowed):
            services.enter(self.teacher, concert, factories.student(), read_typed("3", out_of=20))
        client = Client()
        client.force_login(self.students[0])
        self.assertEqual(client.get(self.url).status_code, 403)

    def test_it_asks_the_same_number_of_times_however_many_marks(self) -> None:
        self.client.get(self.url)
        for _round in range(2):
            with self.assertNumQueries(QUERIES):
                self.client.get(self.url)
            for n in range(3):
                given = factories.assignment(self.exercise, self.school_class)
                factories.handed_in(self.students[n], given)
                self._with_mark(self.concert(name=f"C{n}"))

    def test_tables_hold_the_figures_of_the_page(self) -> None:
        ada = self.students[0]
        services.enter(self.teacher, self.concert(name="=SUM(A1)"), ada, read_typed("18", out_of=20))
        text = self.client.get(f"/classes/{self.school_class.pk}/marks.csv").content.decode()
        self.assertTrue(text.startswith(BOM))
        rows = list(csv.reader(io.StringIO(text.removeprefix(BOM))))
        self.assertIn("'=SUM(A1)", rows[0])
        book = load_workbook(
            io.BytesIO(self.client.get(f"/classes/{self.school_class.pk}/marks.xlsx").content)
        )
        sheet = [[cell.value for cell in row] for row in book.active.iter_rows()]
        self.assertEqual(sheet[0], rows[0])
        mean = book_of(self.school_class, student=ada).rows[0].mean.value
        at = sheet[0].index("Mean, %: all")
        self.assertEqual((sheet[4][0], sheet[4][at], float(rows[4][at])), (ada.name, mean, mean))

    def test_tables_tell_waiting_from_not_handed_in_and_have_dates_and_days_late(self) -> None:
        ada, ben = self.students[:2]
        sheet = book_of(self.school_class, student=ada).rows[0].cells[0].take.sheet
        MarkSheet.objects.filter(pk=sheet.pk).update(accepted_at=None, released_at=None, late_days=2)
        book = load_workbook(
            io.BytesIO(self.client.get(f"/classes/{self.school_class.pk}/marks.xlsx").content)
        )
        rows = [[cell.value for cell in row] for row in book.active.iter_rows()]
        late = rows[0].index(f"Days late: {self.exercise.title}")
        due = timezone.localtime(self.given.due_at).date()
        self.assertEqual((rows[1][1].date(), rows[1][late].date()), (due, due))
        by_name = {row[0]: (row[1], row[late]) for row in rows[4:]}
        self.assertEqual(by_name[ada.name], ("waiting", 2))
        self.assertEqual(by_name[ben.name][0], "not handed in")

    def test_no_name_breaks_a_table_or_becomes_a_formula(self) -> None:
        """Old rows may hold what no form accepts any more."""
        User.objects.filter(pk=self.students[0].pk).update(first_name="A\x07da")
        Exercise.objects.filter(pk=self.exercise.pk).update(title="=1+1\x0b")
        Membership.objects.filter(person=self.students[0]).update(source_id="@SUM(A1)")
        url = f"/classes/{self.school_class.pk}/"
        book = load_workbook(io.BytesIO(self.client.get(f"{url}marks.xlsx").content))
        self.assertEqual([book.active["B1"].value, book.active["A5"].value], ["'=1+1", "Ada Tester"])
        archive = zipfile.ZipFile(io.BytesIO(self.client.get(f"{url}oneroster.zip").content))
        for name in archive.namelist():
            for row in csv.reader(io.StringIO(archive.read(name).decode())):
                self.assertFalse([cell for cell in row if cell.startswith(("=", "+", "@", "\t"))], name)

    def test_oneroster_has_items_and_results_with_the_offices_keys(self) -> None:
        ada, ben = self.students[:2]
        Membership.objects.filter(person=ada).update(source_id="office-77")
        self.type_in(f"a{self.given.pk}", ben, "e")
        data = self.client.get(f"/classes/{self.school_class.pk}/oneroster.zip").content
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            read = {
                name: list(csv.DictReader(io.StringIO(archive.read(f"{name}.csv").decode())))
                for name in ("manifest", "lineItems", "results", "categories")
            }
        self.assertIn({"propertyName": "file.results", "value": "bulk"}, read["manifest"])
        self.assertEqual([one["resultValueMax"] for one in read["lineItems"]], ["100"])
        by_student = {one["studentSourcedId"]: one for one in read["results"]}
        self.assertEqual(by_student["office-77"]["scoreStatus"], "fully graded")
        self.assertEqual(by_student[f"oido-person-{ben.pk}"]["scoreStatus"], "exempt")
        self.assertEqual(
            {one["lineItemSourcedId"] for one in read["results"]}, {read["lineItems"][0]["sourcedId"]}
        )

    def test_a_report_says_whose_it_is_and_what_is_not_marked_yet(self) -> None:
        ada = self.students[0]
        sheet = book_of(self.school_class, student=ada).rows[0].cells[0].take.sheet
        MarkSheet.objects.filter(pk=sheet.pk).update(accepted_at=None, released_at=None)
        with patch("oido.gradebook.term_report.write_pdf", str.encode):
            page = term_report(self.school_class, ada, None).decode()
        self.assertIn(self.teacher.name, page)
        self.assertRegex(page, rf"not yet marked:\s+{re.escape(self.exercise.title)}\.")
        self.assertNotIn("Marks over time", page)

    def test_a_report_on_paper_has_text_marks_and_their_sum(self) -> None:
        ada = self.students[0]
        self._with_mark(self.concert())
        where = f"/classes/{self.school_class.pk}/reports/"
        self.client.post(where, {"student": ada.pk, "text": "Plays with care."})
        page = self.client.get(where)
        self.assertContains(page, "Plays with care.")
        self.assertContains(page, "÷ 3 =")
        paper = factories.made(self.client, f"{where}{ada.pk}/")
        self.assertEqual(paper.content[:4], b"%PDF")
        archive = factories.made(self.client, f"/classes/{self.school_class.pk}/class.zip")
        with zipfile.ZipFile(io.BytesIO(archive.content)) as opened:
            names = opened.namelist()
        self.assertEqual(len([name for name in names if name.startswith("reports/")]), 4)
        self.assertTrue(any(name.endswith(".mid") for name in names))
        self.client.post(where, {"student": ada.pk, "text": ""})
        self.assertNotContains(self.client.get(where), "Plays with care.")
