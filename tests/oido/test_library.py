"""The library: what is found, kept in order, shared, retired, deleted and brought back."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from ear.notes import Meter, MeterChange, MeterMap, Part
from oido.assignments.services import give_exercise, withdraw
from oido.common.permissions import NotAllowed
from oido.exercises import lifecycle
from oido.exercises.models import Exercise, Tag
from oido.exercises.queries import visible_exercises
from oido.exercises.search import Search, exercises_matching
from oido.exercises.services import begin_variation, replace_part
from oido.people.models import School
from tests.ear.parts import beat, melody
from tests.oido import factories

METERS = ((1, 3), (2, 5), (3, 2))


class LibraryTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.colleague, self.head = factories.teacher(), factories.teacher(), factories.head()
        self.student = factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.tune, self.beat = factories.exercise(self.teacher), factories.exercise(self.teacher, beat())
        self.client.force_login(self.teacher)

    def actual(self, by=None, **said) -> set[Exercise]:
        return set(exercises_matching(by or self.teacher, Search(**said)))

    def test_it_is_exercises_matching_what_it_is(self) -> None:
        lifecycle.add_tag(self.teacher, [self.tune], "warm-up")
        tag = Tag.objects.get()
        for said in (
            {"kind": "keyboard"}, {"key": self.tune.fifths}, {"tag": tag.pk}, {"words": "WARM"},
            {"words": self.tune.title}, {"fastest": int(self.tune.tempo_bpm), "kind": "keyboard"},
        ):  # fmt: skip
            self.assertEqual(self.actual(**said), {self.tune}, said)
        self.assertEqual(self.actual(words=f"{self.teacher.first_name} warm"), {self.tune})
        self.assertEqual(self.actual(meter="4/4"), {self.tune, self.beat})
        self.assertEqual(self.actual(slowest=301), set())
        self.assertEqual(self.actual(whose="colleagues"), set())

    def test_a_meter_is_found_whole(self) -> None:
        part = melody()
        long = Part.of(part.notes, kind=part.kind, meters=MeterMap.of(13, 4), tempos=part.tempos)
        replace_part(self.tune, long)
        self.assertEqual(self.actual(meter="3/4"), set())
        self.assertEqual(self.actual(meter="13/4"), {self.tune})
        changes = [MeterChange(bar=bar, meter=Meter(numerator=over, denominator=4)) for bar, over in METERS]
        replace_part(
            self.tune, Part.of(part.notes, kind=part.kind, meters=MeterMap(changes), tempos=part.tempos)
        )
        for _bar, over in METERS:
            self.assertIn(self.tune, self.actual(meter=f"{over}/4"))
        self.assertNotIn(self.tune, self.actual(meter="4/4"))

    def test_what_is_kept_to_oneself_is_seen_by_those_who_teach_it(self) -> None:
        lifecycle.share(self.teacher, [self.tune], is_shared=False)
        self.assertNotIn(self.tune, visible_exercises(self.colleague))
        for by in (self.teacher, self.head):
            self.assertIn(self.tune, visible_exercises(by))
        self.school_class.teachers.add(self.colleague)
        factories.assignment(self.tune, self.school_class)
        self.assertIn(self.tune, visible_exercises(self.colleague))

    def test_tags_are_the_schools_and_go_when_nothing_has_them(self) -> None:
        lifecycle.add_tag(self.teacher, [self.tune, self.beat], "  Two   hands ")
        lifecycle.add_tag(self.teacher, [self.tune], "two HANDS")
        tag = Tag.objects.get()
        self.assertEqual((tag.name, tag.exercises.count()), ("Two hands", 2))
        lifecycle.remove_tag(self.teacher, self.tune, tag)
        self.assertTrue(Tag.objects.exists())
        lifecycle.remove_tag(self.teacher, self.beat, tag)
        self.assertFalse(Tag.objects.exists())
        for n in range(lifecycle.MAX_TAGS):
            lifecycle.add_tag(self.teacher, [self.tune], f"tag {n}")
        with self.assertRaises(lifecycle.TooManyTags):
            lifecycle.add_tag(self.teacher, [self.beat, self.tune], "one more")
        self.assertEqual(self.beat.tags.count(), 0)

    def test_only_its_owner_or_a_head_keeps_it_in_order(self) -> None:
        acts = (
            lambda by: lifecycle.add_tag(by, [self.tune], "mine"),
            lambda by: lifecycle.share(by, [self.tune], is_shared=False),
            lambda by: lifecycle.retire(by, [self.tune], is_retired=True),
            lambda by: lifecycle.delete(by, [self.tune]),
            lambda by: lifecycle.restore_exercises(by, [self.tune]),
        )
        elsewhere = factories.head(at=School.objects.create(name="Elsewhere"))
        for act in acts:
            for by in (self.colleague, self.student, elsewhere):
                self.assertRaises(NotAllowed, act, by)
            act(self.head)

    def test_a_copy_is_in_everything_like_it(self) -> None:
        factories.allow(factories.assignment(self.tune, self.school_class), passes=3, questions=("Why?",))
        lifecycle.add_tag(self.teacher, [self.tune], "warm-up")
        self.tune.refresh_from_db()
        self.client.force_login(self.colleague)
        self.client.post(f"/exercises/{self.tune.pk}/copy/")
        made = Exercise.objects.order_by("-pk").first()
        self.assertEqual((made.owner, made.variation_of), (self.colleague, None))
        for name in ("rules", "ladder", "labels", "instructions", "level", "meters", "bars"):
            self.assertEqual(getattr(made, name), getattr(self.tune, name), name)
        self.assertEqual(made.part.read(), self.tune.part.read())
        self.assertEqual([tag.name for tag in made.tags.all()], ["warm-up"])

    def test_a_retired_one_is_given_no_more_and_what_was_given_goes_on(self) -> None:
        given = factories.assignment(self.tune, self.school_class)
        lifecycle.retire(self.teacher, [self.tune], is_retired=True)
        self.assertEqual((self.actual(), self.actual(show="retired")), ({self.beat}, {self.tune}))
        self.tune.refresh_from_db()
        with self.assertRaises(NotAllowed):
            give_exercise(self.teacher, self.tune, self.school_class, due_at=given.due_at)
        self.client.force_login(self.student)
        self.assertEqual(self.client.get(f"/stand/{given.pk}/").status_code, 200)

    def test_it_is_deleted_with_a_way_back_and_what_was_recorded_stays_readable(self) -> None:
        given = factories.assignment(self.tune, self.school_class)
        take = factories.handed_in(self.student, given)
        refused = self.client.post("/exercises/do/delete/", {"exercise": self.tune.pk}, follow=True)
        self.assertContains(refused, "Withdraw it first")
        withdraw(self.teacher, given, is_withdrawn=True)
        done = self.client.post("/exercises/do/delete/", {"exercise": self.tune.pk}, follow=True)
        self.assertContains(done, 'action="/exercises/do/bring-back/"')
        self.assertEqual((self.actual(), self.actual(show="deleted")), ({self.beat}, {self.tune}))
        for url in (f"/takes/{take.pk}/", f"/exercises/{self.tune.pk}/", f"/assignments/{given.pk}/who/"):
            self.assertEqual(self.client.get(url).status_code, 200, url)
        for url in (
            f"/bench/{self.tune.pk}/",
            f"/exercises/{self.tune.pk}/rules/tempo/",
            f"/exercises/{self.tune.pk}/give/",
        ):
            self.assertEqual(self.client.get(url).status_code, 404, url)
        self.client.post("/exercises/do/bring-back/", {"exercise": self.tune.pk})
        self.assertIn(self.tune, self.actual())

    def test_after_a_month_only_what_was_used_is_kept(self) -> None:
        factories.assignment(self.tune, self.school_class)
        source = factories.exercise(self.teacher)
        begin_variation(self.teacher, source, title="Again")
        fresh = factories.exercise(self.teacher)
        long_ago = timezone.now() - lifecycle.BROUGHT_BACK_FOR - timedelta(days=1)
        Exercise.objects.filter(pk__in=[self.tune.pk, source.pk, self.beat.pk]).update(deleted_at=long_ago)
        lifecycle.delete(self.teacher, [fresh])
        self.assertEqual(lifecycle.sweep_deleted(), 1)
        self.assertFalse(Exercise.objects.filter(pk=self.beat.pk).exists())
        self.assertEqual(Exercise.objects.filter(pk__in=[self.tune.pk, source.pk, fresh.pk]).count(), 3)

    def test_several_at_once_or_none(self) -> None:
        hers = factories.exercise(self.colleague)
        said = self.client.post("/exercises/do/retire/", {"exercise": [self.tune.pk, hers.pk]}, follow=True)
        self.assertContains(said, "Make a copy of it instead")
        self.assertFalse(Exercise.objects.exclude(retired_at=None).exists())
        said = self.client.post("/exercises/do/tag/", {"tag": "x"}, follow=True)
        self.assertContains(said, "Tick the exercises first.")

    def test_the_list_asks_the_same_number_of_times_however_long_it_is(self) -> None:
        self.client.get("/exercises/")
        with self.assertNumQueries(QUERIES):
            self.client.get("/exercises/")
        for _n in range(6):
            lifecycle.add_tag(self.teacher, [factories.exercise(self.teacher)], "more")
        with self.assertNumQueries(QUERIES):
            self.client.get("/exercises/")


QUERIES = 9
