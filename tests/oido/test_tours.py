"""Tours of the Stand, the Bench and the desk: offered once, found again under Help."""

import re

from django.test import TestCase

from oido.help.tours import TOURS
from oido.people.models import User
from tests.oido import factories


class ToursTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        exercise = factories.exercise(self.teacher)
        given = factories.assignment(exercise, school_class)
        take = factories.handed_in(self.student, given)
        self.pages = {
            "stand": (self.student, f"/stand/{given.pk}/"), "bench": (self.teacher, f"/bench/{exercise.pk}/"),
            "desk": (self.teacher, f"/takes/{take.pk}/"),
        }  # fmt: skip
        self.take = take

    def page(self, person: User, path: str) -> str:
        self.client.force_login(User.objects.get(pk=person.pk))
        return self.client.get(path).content.decode()

    def test_a_tour_of_five_steps_is_offered_until_it_is_taken_or_declined(self) -> None:
        self.assertEqual(set(TOURS), set(self.pages))
        for slug, (person, path) in self.pages.items():
            with self.subTest(slug):
                page = self.page(person, path)
                self.assertEqual(len(re.findall("data-tour-step=", page)), 5)
                self.assertNotIn("data-wanted", page)
                seen = f"/help/tours/{slug}/seen/"
                self.assertRedirects(self.client.post(seen, {"back": path}), path)
                self.assertNotIn("data-tour", self.page(person, path))
                self.assertIn("data-wanted", self.page(person, f"{path}?tour=1"))
                self.assertContains(self.client.get("/help/", {"page": path}), f'href="{path}?tour=1"')

    def test_declining_twice_or_two_tours_keeps_both(self) -> None:
        self.client.force_login(self.teacher)
        for slug in ("bench", "bench", "desk"):
            answer = self.client.post(f"/help/tours/{slug}/seen/", headers={"sec-fetch-mode": "cors"})
            self.assertEqual(answer.status_code, 204)
        self.teacher.refresh_from_db()
        self.assertEqual(self.teacher.tours_seen, "bench desk")
        self.assertEqual(self.client.post("/help/tours/nowhere/seen/").status_code, 404)

    def test_nobody_is_sent_elsewhere(self) -> None:
        self.client.force_login(self.teacher)
        for back in ("//evil.example/", "https://evil.example/", "/help/tours/bench/seen/", ""):
            self.assertRedirects(self.client.post("/help/tours/bench/seen/", {"back": back}), "/")

    def test_students_are_not_shown_round_the_desk(self) -> None:
        self.assertNotIn("data-tour", self.page(self.student, f"/takes/{self.take.pk}/"))
