"""An exercise that begins with a pick-up, on all pages: made, given, practised, recorded, marked, exported."""

import json

from django.test import TestCase

from ear.players.robot import Habits
from ear.practice.proposals import propose_ladder
from oido.exercises.models import Exercise
from oido.exercises.services import set_ladder
from oido.marking.models import Remark
from oido.takes.models import Take
from tests.ear.test_pickup import PART
from tests.oido import factories

HTMX = {"headers": {"hx-request": "true"}}


class PickupTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.exercise = factories.exercise(self.teacher, PART)
        set_ladder(self.teacher, self.exercise, propose_ladder(PART))
        self.given = factories.assignment(self.exercise, school_class)
        self.client.force_login(self.teacher)

    def get(self, url: str):
        answer = self.client.get(url)
        self.assertEqual(answer.status_code, 200, url)
        return answer

    def test_the_exercise_its_ladder_and_its_files(self) -> None:
        url = f"/exercises/{self.exercise.pk}/"
        page = self.get(url)
        self.assertContains(page, "6&nbsp;bars of 3/4")
        self.assertContains(page, "with a pick-up")
        self.assertContains(page, "pick-up to bar 4")
        self.assertContains(page, 'value="0" data-from')
        self.assertEqual(page.context["playing"]["bars"][0]["number"], 0)
        self.assertEqual(Exercise.objects.get(pk=self.exercise.pk).bars, 6)
        for more in ("notation/", "ladder/"):
            self.get(f"{url}{more}")
        for kind in ("part.musicxml", "part.mid"):
            self.get(f"{url}{kind}")
        self.assertEqual(factories.made(self.client, f"{url}sheet.pdf").status_code, 200)

    def test_the_bench_works_on_it_by_its_numbers(self) -> None:
        url = f"/bench/{self.exercise.pk}/"
        self.assertContains(self.get(url), 'data-playing-first="0"')
        self.get(
            f"{url}grid/?first_bar=0&last_bar=1&step=240&value=240&velocity=72&hand=right&low=40&high=80"
        )
        for slug, values in (
            ("pick", {"first_bar": 0, "last_bar": 0}),
            ("section", {"bar": 0, "name": "A", "how": "set"}),
            ("bars", {"how": "repeat", "first_bar": 1, "last_bar": 2, "times": 1, "ending_bars": 1}),
            ("bars", {"how": "pickup", "first_bar": 1, "last_bar": 1, "times": 1}),
        ):
            answer = self.client.post(f"{url}do/{slug}/", values, **HTMX)
            self.assertEqual(answer.status_code, 200, (slug, answer.content[:300]))
        self.client.post(f"{url}keep/")
        part = Exercise.objects.get(pk=self.exercise.pk).part_in_force.read()
        self.assertEqual((part.first_bar, part.last_bar), (1, 9))

    def test_it_is_practised_and_recorded(self) -> None:
        self.client.force_login(self.student)
        stand = self.get(f"/stand/{self.given.pk}/")
        self.assertContains(stand, '"countInBars": 0')
        self.assertContains(stand, "pick-up to bar 4")
        self.get(f"/stand/{self.given.pk}/words/")
        body = {
            "first_bar": 0, "last_bar": 1, "bpm": 90.0, "fifths": 1, "latency_ms": 0.0, "source": "midi",
            "events": [[2000 / 3 * 2, 144, 62, 80], [2000 / 3 * 2.4, 128, 62, 0]],
        }  # fmt: skip
        loop = self.client.post(
            f"/stand/{self.given.pk}/loops/", json.dumps(body), content_type="application/json"
        )
        self.assertEqual(loop.status_code, 200, loop.content[:300])
        self.assertIn("bar 0", loop.json()["chart"])

    def test_it_is_marked_with_remarks_at_the_pickup_and_compared(self) -> None:
        first = factories.handed_in(self.student, self.given, habits=Habits(spread_ms=12, misses=0.3))
        page = self.get(f"/takes/{first.pk}/")
        self.assertEqual(page.context["playing"]["bars"][0]["number"], 0)
        for more in ("rows/?from=0", "words.txt", "notation/", "notes/t0/"):
            self.get(f"/takes/{first.pk}/{more}")
        self.client.post(f"/takes/{first.pk}/remarks/", {"text": "Lighter here.", "bar": 0, "beat": 3})
        self.assertEqual(Remark.objects.get().bar, 0)
        for wrong in (-1, 7):
            self.client.post(f"/takes/{first.pk}/remarks/", {"text": "Nowhere.", "bar": wrong})
        self.assertEqual(Remark.objects.count(), 1)
        self.client.post(f"/takes/{first.pk}/say/", {"said": "again", "bar": 0})
        self.assertContains(self.get(f"/takes/{first.pk}/"), "bar 0")
        self.get(f"/assignments/{self.given.pk}/")
        self.get(f"/takes/{first.pk}/")
        made = self.client.post(f"/assignments/{self.given.pk}/bars/", {"bar": [0, 1]})
        self.assertIn(made.status_code, (302, 404))
        self.assertEqual(Take.objects.get(pk=first.pk).part.read().first_bar, 0)
