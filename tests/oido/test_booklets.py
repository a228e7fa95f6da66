"""Booklets: sets made at once, given, worked through, handed in and heard as one, on paper and to another Oido."""

import io
import json
import zipfile
from datetime import timedelta
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.template.loader import render_to_string
from django.test import Client, TestCase
from django.utils import timezone

from ear.conventions import Conventions
from ear.errors import FormatError
from ear.formats.importing import open_file
from ear.formats.quick_mido import mido
from oido.assignments.models import Assignment, BookletAssignment
from oido.assignments.services import Arranged, arrange, give_again, give_booklet
from oido.booklets import services
from oido.booklets.bundle import read_booklet, write_booklet
from oido.booklets.models import Booklet, Item
from oido.booklets.printed import booklet_pdf
from oido.common.permissions import NotAllowed
from oido.exercises import lifecycle
from oido.exercises.bundle import read_bundle
from oido.exercises.models import Exercise
from oido.exercises.services import store_upload
from oido.gradebook.book import book_of
from oido.marking import services as marking
from oido.people.models import School
from oido.takes.models import HandIn, Take
from oido.takes.outputs import takes_together, together_midi, together_seconds
from tests.ear.parts import melody, melody_in_eighths, two_hands
from tests.oido import factories


def day(offset: int):
    return timezone.now() + timedelta(days=offset)


class BookletTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.client.force_login(self.teacher)
        self.pupil = Client()
        self.pupil.force_login(self.student)

    def booklet(self, count: int = 3) -> Booklet:
        exercises = [factories.exercise(self.teacher, melody(bars=2, bpm=120.0)) for _ in range(count)]
        return services.make_booklet(self.teacher, title="Harbour walks", exercises=exercises)

    def give(self, booklet: Booklet | None = None, **more) -> BookletAssignment:
        return give_booklet(
            self.teacher, booklet or self.booklet(), self.school_class, **{"due_at": day(7), **more}
        )

    def test_a_class_has_one_line_for_it(self) -> None:
        given = self.give(a_week=1)
        look = self.client.get(f"/classes/{self.school_class.pk}/")
        self.assertContains(look, f"/booklets/given/{given.pk}/", count=1)
        self.assertContains(look, "booklet with 3 exercises")
        self.assertContains(look, "0 of 3 handed in")
        days = [f"{timezone.localtime(day(7 * n)):%-d %b}" for n in (1, 3)]
        self.assertContains(look, " ".join(f"due {days[0]} to {days[1]}".split()))

    def titles(self, booklet: Booklet) -> list[str]:
        return [item.exercise.title for item in booklet.items.order_by("position")]


class MakingTest(BookletTest):
    def test_a_set_of_ten_rhythms_is_looked_at_and_made(self) -> None:
        source = factories.exercise(self.teacher, melody_in_eighths())
        url = f"/exercises/{source.pk}/set/"
        rhythms = [value for value, _name in self.client.get(url).context["form"].fields["rhythms"].choices]
        sent = {"title": "Ten rhythms", "rhythms": rhythms, "percents": ["80"], "keys": ["2", "-1"]}
        look = self.client.post(url, sent)
        self.assertContains(look, "long, short")
        self.assertEqual(Exercise.objects.count(), 1)
        self.client.post(url, sent | {"make": "1", "with_source": "on"})
        booklet = Booklet.objects.get()
        titles = self.titles(booklet)
        self.assertEqual(len(titles), len(set(titles)))
        self.assertEqual((titles[0], len(titles)), (source.title, 1 + 10 + 2 + 1))
        self.assertIn(f"{source.title}: D", titles)
        made = Exercise.objects.get(title=titles[-1])
        self.assertEqual((float(made.tempo_bpm), made.variation_of), (round(96 * 0.8), source.part))

    def test_a_set_says_what_is_wrong(self) -> None:
        source = factories.exercise(self.teacher, two_hands())
        url = f"/exercises/{source.pk}/set/"
        self.assertContains(self.client.post(url, {"title": "x"}), "Tick what the set", status_code=422)
        self.assertContains(self.client.post(url, {"title": "", "keys": ["2"]}), "required", status_code=422)
        hands = self.client.post(url, {"title": "Hands", "hands": ["left", "right"], "make": "1"})
        self.assertEqual(hands.status_code, 302)
        self.assertEqual(
            [t.partition(": ")[2] for t in self.titles(Booklet.objects.get())], ["left hand", "right hand"]
        )
        self.assertEqual(
            self.client.get(f"/exercises/{factories.free_exercise(self.teacher).pk}/set/").status_code, 404
        )

    def test_order_headings_taking_out_copies_and_deleting(self) -> None:
        booklet = self.booklet()
        first, second, third = booklet.items.order_by("position")
        url = f"/booklets/{booklet.pk}/"
        self.client.post(f"{url}items/{third.pk}/up/")
        self.client.post(f"{url}items/{first.pk}/down/")
        self.assertEqual(
            [item.pk for item in booklet.items.order_by("position")], [third.pk, first.pk, second.pk]
        )
        self.client.post(f"{url}items/{first.pk}/", {"heading": "Slow ones", "text": "Take your time."})
        self.assertContains(self.client.get(url), "Slow ones")
        self.client.post(f"{url}items/{second.pk}/out/")
        self.assertEqual(booklet.items.count(), 2)
        self.client.post(f"{url}add/", {"exercise": [second.exercise_id, 999_999]})
        self.assertEqual(booklet.items.count(), 3)
        self.client.post(f"{url}copy/")
        copied = Booklet.objects.exclude(pk=booklet.pk).get()
        self.assertEqual(self.titles(copied), self.titles(booklet))
        self.assertFalse(
            set(copied.items.values_list("exercise")) & set(booklet.items.values_list("exercise"))
        )
        self.client.post(f"{url}delete/")
        self.assertEqual(self.client.get(url).status_code, 404)
        self.client.post(f"{url}restore/")
        self.assertEqual(self.client.get(url).status_code, 200)

    def test_what_is_ticked_in_the_library_becomes_one(self) -> None:
        exercises = [factories.exercise(self.teacher) for _ in range(2)]
        self.client.post("/booklets/", {"title": "Ticked", "exercise": [one.pk for one in exercises]})
        self.assertEqual(self.titles(Booklet.objects.get()), [one.title for one in exercises])

    def test_who_may_change_it(self) -> None:
        booklet = self.booklet()
        elsewhere = factories.head(at=School.objects.create(name="Elsewhere"))
        foreign = factories.exercise(elsewhere)
        self.assertRaises(NotAllowed, services.add, self.teacher, booklet, [foreign])
        for by in (factories.teacher(), self.student, elsewhere):
            for act in (
                lambda by: services.change(by, booklet, title="x", text="", is_shared=True),
                lambda by: services.move(by, booklet.items.first(), by=1),
                lambda by: services.delete(by, booklet, is_deleted=True),
            ):
                self.assertRaises(NotAllowed, act, by)
        exercise = factories.exercise(self.teacher)
        with self.assertRaises(services.TooMany):
            services.add(self.teacher, booklet, [exercise] * services.MAX_ITEMS)
        self.assertEqual(booklet.items.count(), 3)

    def test_deleted_exercises_of_a_booklet_are_kept(self) -> None:
        booklet = self.booklet(1)
        exercise = booklet.items.get().exercise
        lifecycle.delete(self.teacher, [exercise])
        Exercise.objects.update(deleted_at=timezone.now() - lifecycle.BROUGHT_BACK_FOR - timedelta(days=1))
        self.assertEqual(lifecycle.sweep_deleted(), 0)
        self.assertContains(self.client.get(f"/booklets/{booklet.pk}/"), "Nothing in it yet")


class GivingTest(BookletTest):
    def test_whole_or_by_week(self) -> None:
        booklet = self.booklet(5)
        url = f"/booklets/{booklet.pk}/give/"
        self.assertContains(self.client.get(url), "Exercises a week")
        due = timezone.localdate() + timedelta(days=3)
        sent = {
            "due_on": due.isoformat(),
            "late": "taken",
            "seen": "reading",
            "a_week": "2",
            f"class-{self.school_class.pk}-chosen": "on",
        }
        self.assertEqual(self.client.post(url, sent).status_code, 302)
        days = [timezone.localtime(one.due_at).date() for one in Assignment.objects.order_by("place")]
        self.assertEqual([(one - due).days for one in days], [0, 0, 7, 7, 14])
        opens = [one.opens_at for one in Assignment.objects.order_by("place")]
        self.assertEqual([at is None for at in opens], [True, True, False, False, False])
        self.assertContains(self.client.post(url, sent), "has this already", status_code=422)
        self.assertContains(
            self.client.post(url, sent | {"a_week": "0"}), "greater than or equal to 1", status_code=422
        )

    def test_of_nothing_that_can_be_given_it_says_so(self) -> None:
        booklet = self.booklet(1)
        lifecycle.retire(self.teacher, [item.exercise for item in booklet.items.all()], is_retired=True)
        sent = {
            "due_on": day(3).date().isoformat(),
            "late": "taken",
            "seen": "reading",
            f"class-{self.school_class.pk}-chosen": "on",
        }
        answer = self.client.post(f"/booklets/{booklet.pk}/give/", sent)
        self.assertContains(answer, "nothing in this booklet that can be given", status_code=422)
        self.assertFalse(BookletAssignment.objects.exists())

    def test_another_class_gets_it_as_a_booklet_once(self) -> None:
        given = self.give(a_week=2)
        other = factories.school_class(teachers=[self.teacher], students=[factories.student()])
        for count in (3, 0):
            made = give_again(self.teacher, self.school_class, other, first_due_at=day(30))
            self.assertEqual(len(made), count)
        again = BookletAssignment.objects.exclude(pk=given.pk).get()
        self.assertEqual((again.booklet, again.school_class), (given.booklet, other))
        self.assertEqual([one.place for one in again.assignments.order_by("due_at", "pk")], [0, 1, 2])

    def test_it_is_worked_through_and_handed_in_as_one(self) -> None:
        given = self.give()
        assignments = list(given.assignments.order_by("place"))
        page = self.pupil.get(f"/stand/{assignments[1].pk}/")
        self.assertContains(page, "2 of 3")
        self.assertContains(page, f'href="/stand/{assignments[2].pk}/"')
        takes = [factories.take(self.student, one) for one in assignments[:2]]
        page = self.pupil.get(f"/stand/booklets/{given.pk}/")
        self.assertContains(page, "Hand in the 2 chosen takes together")
        empty = self.pupil.post(f"/stand/booklets/{given.pk}/", {})
        self.assertContains(empty, "nothing to hand in yet", status_code=422)
        sent = {f"step-{one.assignment_id}-takes": one.pk for one in takes} | {
            f"step-{assignments[2].pk}-takes": takes[0].pk
        }
        self.pupil.post(f"/stand/booklets/{given.pk}/", sent)
        self.assertEqual(Take.objects.filter(handed_in_at__isnull=False).count(), 2)
        self.assertContains(
            self.client.get(f"/booklets/given/{given.pk}/"),
            f"/booklets/given/{given.pk}/{self.student.pk}.mid",
        )
        stranger = Client()
        stranger.force_login(factories.student())
        self.assertEqual(stranger.get(f"/stand/booklets/{given.pk}/").status_code, 404)

    def test_several_takes_and_answers_are_handed_in_with_the_rest(self) -> None:
        given = self.give()
        several, asked, questions = given.assignments.order_by("place")
        factories.allow(several, handed_in_takes=2, least_takes=2)
        factories.allow(asked, questions=("What was hard?",))
        factories.allow(questions, has_questions_only=True, questions=("Which bars rise?",))
        two = [factories.take(self.student, several) for _ in range(2)]
        one = factories.take(self.student, asked)
        url = f"/stand/booklets/{given.pk}/"
        sent = {
            f"step-{several.pk}-takes": [two[0].pk], f"step-{asked.pk}-takes": one.pk,
            f"step-{questions.pk}-answer-0": "The first two.",
        }  # fmt: skip
        answer = self.pupil.post(url, sent)
        for words in ("Choose 2 takes.", "Please write a sentence.", "The first two."):
            self.assertContains(answer, words, status_code=422)
        self.assertFalse(HandIn.objects.exists())
        sent |= {f"step-{several.pk}-takes": [take.pk for take in two], f"step-{asked.pk}-answer-0": "Bar 2."}
        self.assertRedirects(self.pupil.post(url, sent), url)
        self.assertEqual(Take.objects.filter(handed_in_at__isnull=False).count(), 4)
        answers = {row.assignment_id: row.answers for row in HandIn.objects.all()}
        self.assertEqual(answers[asked.pk], [["What was hard?", "Bar 2."]])
        self.assertEqual(answers[questions.pk], [["Which bars rise?", "The first two."]])

    def test_all_of_them_or_none_are_handed_in(self) -> None:
        given = self.give()
        first, second, _third = given.assignments.order_by("place")
        takes = [factories.take(self.student, one) for one in (first, second)]
        Assignment.objects.filter(pk=second.pk).update(closed_at=timezone.now())
        sent = {f"step-{one.assignment_id}-takes": one.pk for one in takes}
        answer = self.pupil.post(f"/stand/booklets/{given.pk}/", sent)
        self.assertContains(answer, "Nothing was handed in", status_code=422)
        self.assertFalse(Take.objects.filter(handed_in_at__isnull=False).exists())

    def test_it_is_heard_as_one_in_order_with_the_count_in_between(self) -> None:
        given = self.give()
        assignments = list(given.assignments.order_by("place"))
        for one in reversed(assignments):
            factories.handed_in(self.student, one)
        actual = takes_together(self.student, given)
        self.assertEqual([one.assignment_id for one in actual], [one.pk for one in assignments])
        file = mido.MidiFile(file=io.BytesIO(together_midi(actual)))
        markers = [m.text for m in file.tracks[0] if m.type == "marker"]
        self.assertEqual(markers, [one.exercise.title for one in assignments])
        # Each: a bar of count-in and two bars, four beats at 120 each.
        self.assertAlmostEqual(together_seconds(actual), 3 * 3 * 2.0)
        at, onsets = 0.0, []
        for message in file:
            at += message.time
            if message.type == "note_on" and message.velocity:
                onsets.append(at)
        self.assertGreater(onsets[0], 1.8)
        for k in (1, 2):
            self.assertFalse([t for t in onsets if k * 6 + 0.3 < t < k * 6 + 1.8])
        self.assertTrue(open_file(together_midi(actual)).choices)
        url = f"/booklets/given/{given.pk}/{self.student.pk}"
        self.assertEqual(self.client.get(f"{url}.mid").content[:4], b"MThd")
        self.assertEqual(factories.made(self.client, f"{url}.ogg").content[:4], b"OggS")
        other = factories.student()
        self.school_class.students.add(other)
        self.assertEqual(self.client.get(f"/booklets/given/{given.pk}/{other.pk}.mid").status_code, 404)

    def test_a_student_hears_what_is_handed_in_as_one(self) -> None:
        given = self.give()
        url = f"/stand/booklets/{given.pk}/"
        self.client.force_login(self.student)
        self.assertEqual(self.client.get(f"{url}heard.mid").status_code, 404)
        factories.handed_in(self.student, given.assignments.first())
        self.assertContains(self.client.get(url), "heard.wav")
        answer = self.client.get(f"{url}heard.mid")
        self.assertEqual((answer["Content-Type"], answer.content[:4]), ("audio/midi", b"MThd"))
        first, again = (self.client.get(f"{url}heard.wav")["Location"] for _n in range(2))
        # Asked for again while it is made, it is the same job.
        self.assertEqual(first, again)

    def test_the_gradebook_has_its_mean(self) -> None:
        given = self.give()
        for one in given.assignments.all():
            marking.accept(self.teacher, factories.handed_in(self.student, one))
        factories.assignment(factories.exercise(self.teacher), self.school_class)
        book = book_of(self.school_class)
        row = book.rows[0]
        self.assertEqual((list(map(str, book.booklets)), len(row.means)), (["Harbour walks"], 2))
        self.assertEqual(row.booklets[0].value, row.mean.value)
        self.assertContains(self.client.get(f"/classes/{self.school_class.pk}/marks/"), "Harbour walks")

    def test_an_excused_step_does_not_wait(self) -> None:
        given = self.give()
        arrange(self.teacher, given.assignments.first(), self.student, Arranged(is_excused=True))
        self.assertContains(self.pupil.get(f"/stand/booklets/{given.pk}/"), "1 of 3 handed in")


class TravellingTest(BookletTest):
    def test_a_booklet_file_is_read_once_for_each_exercise_and_a_large_one_is_imported_in_a_job(self) -> None:
        large = services.make_booklet(
            self.teacher, title="Large", exercises=[factories.exercise(self.teacher, melody(bars=500))]
        )
        files = zipfile.ZipFile(io.BytesIO(write_booklet(large)))
        manifest = json.loads(files.read("booklet.json"))
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            archive.writestr("01.zip", files.read("01.zip"))
            archive.writestr("booklet.json", json.dumps({**manifest, "items": 6 * manifest["items"]}))
        with patch("oido.booklets.bundle.read_bundle", wraps=read_bundle) as read:
            self.assertEqual(read_booklet(buffer.getvalue()).notes, 12_000)
        self.assertEqual(read.call_count, 1)
        stored = store_upload(self.teacher, "large.zip", buffer.getvalue())
        self.client.force_login(self.teacher)
        self.assertIn("/jobs/", self.client.post(f"/booklets/import/{stored.pk}/").url)
        for _ in range(2):
            factories.work_all()
        self.assertEqual(Booklet.objects.filter(title="Large").count(), 2)
        with patch("oido.booklets.bundle.BOOKLET_NOTES", 11_999), self.assertRaises(FormatError):
            read_booklet(buffer.getvalue())

    def test_out_and_in_again_look_first(self) -> None:
        booklet = self.booklet(2)
        item = booklet.items.order_by("position").first()
        services.change_item(self.teacher, item, heading="First", text="Slowly.")
        Item.objects.create(booklet=booklet, exercise=factories.free_exercise(self.teacher), position=9)
        data = self.client.get(f"/booklets/{booklet.pk}/booklet.zip").content
        self.assertEqual(data, write_booklet(booklet))
        self.assertEqual([one.heading for one in read_booklet(data).items], ["First", "", ""])
        other = factories.head(at=School.objects.create(name="Elsewhere"))
        self.client.force_login(other)
        before = Exercise.everywhere.count()
        look = self.client.post("/booklets/send/", {"file": SimpleUploadedFile("b.zip", data)}, follow=True)
        self.assertContains(look, "Nothing is made yet")
        self.assertEqual(Exercise.everywhere.count(), before)
        for _twice in range(2):
            self.client.post(look.request["PATH_INFO"])
        made = Booklet.everywhere.get(owner=other)
        self.assertEqual([one.heading for one in made.items.order_by("position")], ["First", "", ""])
        parts = [one.exercise.part for one in made.items.order_by("position")]
        self.assertEqual(parts[0].read(), item.exercise.part.read())
        self.assertEqual(parts[2].spec.bars, 4)

    def test_a_wrong_file_says_so_and_makes_nothing(self) -> None:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            archive.writestr(
                "booklet.json", '{"schema": "oido.booklet/1", "title": "x", "items": [{"file": "01.zip"}]}'
            )
        many = io.BytesIO()
        with zipfile.ZipFile(many, "w") as archive:
            archive.writestr(
                "booklet.json",
                json.dumps({"schema": "oido.booklet/1", "title": "x", "items": [{"file": "01.zip"}] * 61}),
            )
        for data in (b"no archive", buffer.getvalue(), many.getvalue()):
            answer = self.client.post("/booklets/send/", {"file": SimpleUploadedFile("b.zip", data)})
            self.assertContains(answer, "could not be read", status_code=422)
        self.assertFalse(Booklet.objects.exists())

    def test_on_paper_with_contents(self) -> None:
        booklet = self.booklet(2)
        Item.objects.create(booklet=booklet, exercise=factories.free_exercise(self.teacher), position=9)
        paper = factories.made(self.client, f"/booklets/{booklet.pk}/booklet.pdf").content
        self.assertEqual(paper[:4], b"%PDF")
        # A page of contents and, with these short ones, a page each; the contents name them so.
        with patch("oido.booklets.printed.write_together") as written:
            booklet_pdf(booklet, Conventions())
        contents, *sheets = written.call_args.args[0]
        self.assertEqual([len(one.pages) for one in (contents, *sheets)], [1, 1, 1, 1])
        with patch("oido.booklets.printed.render_to_string", wraps=render_to_string) as told:
            booklet_pdf(booklet, Conventions())
        self.assertEqual([page for _, page in told.call_args.args[1]["rows"]], [2, 3, 4])
