"""Ready-made exercises: added once, as one's own, by piece, by grade or all together."""

from datetime import timedelta

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone, translation

from ear.library.catalogue import LIBRARY, library_piece
from oido.exercises import lifecycle
from oido.exercises.models import Exercise, Tag, TargetPart
from oido.exercises.ready_made import add_ready_made, already_added, pieces_of
from tests.oido import factories

ADD = "/exercises/ready-made/add/"


class ReadyMadeTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.colleague = factories.teacher(), factories.teacher()
        self.client.force_login(self.teacher)

    def test_all_of_the_library_is_added_once_with_its_ladders_and_tags(self) -> None:
        with self.assertNumQueries(949):
            made = add_ready_made(self.teacher, LIBRARY)
        self.assertEqual([one.ready_made for one in made], [piece.name for piece in LIBRARY])
        for one, piece in zip(made, LIBRARY, strict=True):
            self.assertEqual((one.title, one.level, one.owner), (piece.title, piece.level, self.teacher))
            self.assertEqual(one.part_in_force.read().notes, piece.part.notes)
            self.assertTrue(one.practice_ladder.rungs)
        tags = Tag.objects.get(name="grade 3").exercises.values_list("ready_made", flat=True)
        self.assertEqual(set(tags), {piece.name for piece in pieces_of(3)})
        first = {tag.name for tag in made[0].tags.all()}
        self.assertEqual(first, {"grade 1", *LIBRARY[0].tags})
        self.assertEqual(add_ready_made(self.teacher, LIBRARY), [])
        lifecycle.share(self.teacher, made, is_shared=True)
        self.assertEqual(add_ready_made(self.colleague, LIBRARY), [], "a colleague sees what is shared")

    def test_what_a_colleague_keeps_for_herself_can_be_added(self) -> None:
        piece = library_piece("plain-road")
        lifecycle.share(self.colleague, add_ready_made(self.colleague, [piece]), is_shared=False)
        self.assertEqual(already_added(self.teacher), {})
        self.assertEqual(len(add_ready_made(self.teacher, [piece])), 1)

    def test_what_was_deleted_or_retitled(self) -> None:
        piece = library_piece("plain-road")
        first = add_ready_made(self.teacher, [piece])
        Exercise.objects.update(title="Our own name for it")
        self.assertEqual(add_ready_made(self.teacher, [piece]), [])
        lifecycle.delete(self.teacher, first)
        again = add_ready_made(self.teacher, [piece])
        self.assertEqual([one.title for one in again], ["Plain Road"])
        self.assertEqual(lifecycle.copy_exercise(self.teacher, again[0], title="Copy").ready_made, "")
        lifecycle.delete(self.teacher, Exercise.objects.all())
        Exercise.objects.update(deleted_at=timezone.now() - lifecycle.BROUGHT_BACK_FOR - timedelta(days=1))
        lifecycle.sweep_deleted()
        self.assertEqual((Exercise.objects.count(), TargetPart.objects.count()), (0, 0))

    def test_the_page_offers_what_is_lacking_and_links_what_is_there(self) -> None:
        answer = self.client.get("/exercises/ready-made/")
        self.assertContains(answer, 'name="piece"', count=120)
        self.assertContains(answer, "Add all 24 of grade 5")
        self.assertRedirects(self.client.post(ADD, {"which": "2"}), "/exercises/")
        self.assertRedirects(self.client.post(ADD, {"piece": ["plain-road", "first-light"]}), "/exercises/")
        with self.assertNumQueries(3):
            answer = self.client.get("/exercises/ready-made/")
        self.assertContains(answer, 'name="piece"', count=94)
        self.assertContains(answer, "in your exercises", count=26 + 1)
        self.client.post(ADD, {"which": "all"})
        self.assertEqual(Exercise.objects.count(), 120)
        self.assertNotContains(self.client.get("/exercises/ready-made/"), 'name="which"')

    def test_one_piece_is_looked_at_heard_and_added(self) -> None:
        url = "/exercises/ready-made/lamp-post-swing/"
        self.assertContains(self.client.get(url), "Add to my exercises")
        self.assertContains(self.client.get(f"{url}notation/"), "<svg")
        answer = self.client.post(ADD, {"piece": "lamp-post-swing"})
        made = Exercise.objects.get()
        self.assertRedirects(answer, f"/exercises/{made.pk}/")
        self.assertContains(self.client.get(url), f"/exercises/{made.pk}/")

    def test_what_is_not_there_is_refused(self) -> None:
        self.assertEqual(self.client.get("/exercises/ready-made/no-such-piece/").status_code, 404)
        self.assertEqual(self.client.post(ADD, {"piece": ["plain-road", "no-such-piece"]}).status_code, 404)
        self.assertContains(self.client.post(ADD, {}, follow=True), "Tick the exercises you want first.")
        for wrong in ("9", "-1", "x", "1e9"):
            self.client.post(ADD, {"which": wrong})
        self.assertEqual(Exercise.objects.count(), 0)

    def test_titles_and_tags_are_in_the_readers_language(self) -> None:
        with translation.override("en"):
            self.assertEqual(add_ready_made(self.teacher, [LIBRARY[0]])[0].title, "Morning Gate")


class AddedAtOnceTest(TransactionTestCase):
    def test_two_presses_at_once_add_each_piece_once(self) -> None:
        teacher = factories.teacher()

        def press() -> None:
            try:
                add_ready_made(teacher, pieces_of(1)[:4])
            finally:
                connection.close()

        threads = [factories.thread(target=press) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(Exercise.objects.count(), 4)
