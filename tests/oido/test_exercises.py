"""Exercises: made from a file, refused when the file is wrong, given to a class."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from ear.formats.smf import read_part, write_part
from ear.notes import Kind
from oido.assignments.models import Assignment
from oido.exercises.models import Exercise
from tests.ear.parts import beat, two_hands
from tests.oido import factories


class MakingTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[factories.student()])

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def make(self, data: bytes, **changes):
        form = {
            "title": "Sea Gate",
            "kind": "keyboard",
            "instructions": "Calmly.",
            "tempo_bpm": "",
            "count_in_bars": "2",
            "level": "secure",
            "file": SimpleUploadedFile("gate.mid", data),
        }
        return self.client.post("/exercises/new/", form | changes)

    def test_a_part_is_imported_with_its_own_tempo(self) -> None:
        part = two_hands()
        response = self.make(write_part(part))
        exercise = Exercise.objects.get()
        self.assertRedirects(response, f"/exercises/{exercise.pk}/")
        self.assertEqual(exercise.part.read(), part)
        self.assertEqual(bytes(exercise.part.source_file), write_part(part))
        self.assertEqual((exercise.tempo_bpm, exercise.count_in_bars, exercise.level), (100, 2, "secure"))

    def test_another_tempo_is_put_into_the_part(self) -> None:
        self.make(write_part(beat()), kind="drums", tempo_bpm="72")
        self.assertEqual(Exercise.objects.get().part.read().tempos.first_bpm, 72)

    def test_what_is_wrong_is_said_and_nothing_is_stored(self) -> None:
        whole = write_part(two_hands())
        for data, changes, said in (
            (b"", {}, "empty"),
            (b"hello there", {}, "cannot be read"),
            (whole[:60], {}, "cannot be read"),
            (write_part(two_hands(bars=0)), {}, "holds no notes"),
            (whole, {"title": ""}, "required"),
            (whole, {"tempo_bpm": "9999"}, "less than or equal"),
            (whole, {"count_in_bars": "9"}, "less than or equal"),
            (whole, {"level": "wizard"}, "valid choice"),
            (write_part(two_hands(bars=450)), {}, "up to 400 bars"),
        ):
            with self.subTest(said=said, changes=changes):
                response = self.make(data, **changes)
                self.assertContains(response, said, status_code=422)
        self.assertFalse(Exercise.objects.exists())

    def test_the_part_comes_out_as_it_went_in(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        data = self.client.get(f"/exercises/{exercise.pk}/part.mid").content
        self.assertEqual(read_part(data, kind=Kind.KEYBOARD), two_hands())

    def test_giving_answers_with_the_list(self) -> None:
        exercise = factories.exercise(self.teacher)
        day = timezone.now().date().isoformat()
        response = self.client.post(
            f"/exercises/{exercise.pk}/give/",
            {"school_class": self.school_class.pk, "due_on": day},
            headers={"HX-Request": "true"},
        )
        self.assertContains(response, self.school_class.name)
        self.assertEqual(Assignment.objects.get().exercise, exercise)
        past = self.client.post(
            f"/exercises/{exercise.pk}/give/", {"school_class": self.school_class.pk, "due_on": "2001-01-01"}
        )
        self.assertContains(past, "passed already", status_code=422)
