"""Parts are begun, changed, taken back and kept."""

from django.test import TestCase

from ear.editing.edited import ALL, Edited
from ear.formats.smf import read_part
from ear.notes import Kind, Part
from oido.assignments.services import give_exercise
from oido.bench import services
from oido.bench.models import DraftState
from oido.bench.tools import TOOLS
from oido.bench.tools.shaping import JoinTool
from oido.bench.tools.single import PLAIN_LOOK, NoteTool
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from tests.ear.parts import beat, melody
from tests.oido import factories

HTMX = {"headers": {"HX-Request": "true"}}


class BeginTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()

    def begin(self, way: str, **more: str) -> Exercise:
        self.client.force_login(self.teacher)
        form = {
            "title": f"Made as {way}", "way": way, "meter": "4/4", "bars": "4", "tonic": "D", "mode": "major",
            "octaves": "1", "value": "480", "hand": "right", "chords": "C | Am F", "rhythm": "x",
            "chord": "Am7", "size": "3", "going": "up", "voicing": "nearest notes",
            "beat": "straight eighths", "tempo_bpm": "", "count_in_bars": "2", "level": "building", **more,
        }  # fmt: skip
        response = self.client.post("/bench/new/", form)
        self.assertEqual(response.status_code, 302, response.content[-3000:])
        exercise = Exercise.objects.latest("pk")
        self.assertRedirects(response, f"/bench/{exercise.pk}/")
        return exercise

    def test_each_way_makes_its_part_with_what_teachers_set(self) -> None:
        for way, kind, notes, bars, bpm in (
            ("empty", "keyboard", 0, 4, 90), ("empty-drums", "drums", 0, 4, 100), ("fingers", "keyboard", 9, 3, 90),
            ("scale", "keyboard", 8, 2, 90), ("arpeggio", "keyboard", 5, 2, 90),
            ("intervals", "keyboard", 16, 4, 90), ("chords", "keyboard", 12, 2, 90), ("beat", "drums", 48, 4, 100),
        ):  # fmt: skip
            exercise = self.begin(way)
            part = exercise.part.read()
            with self.subTest(way):
                found = (exercise.kind, len(part.notes), len(part.bars), float(exercise.tempo_bpm))
                self.assertEqual(found, (kind, notes, bars, bpm))

    def test_what_is_wrong_is_said_beside_its_cause(self) -> None:
        self.client.force_login(self.teacher)
        form = {
            "title": "x", "way": "chords", "meter": "4/4", "bars": "4", "mode": "major", "octaves": "1",
            "value": "480", "hand": "right", "chords": "C | Zap", "size": "3", "going": "up",
            "voicing": "nearest notes", "beat": "shuffle", "count_in_bars": "1",
            "level": "building",
        }  # fmt: skip
        response = self.client.post("/bench/new/", form)
        self.assertContains(response, "unknown chord", status_code=422)
        self.assertEqual(list(response.context["form"].errors), ["chords"])
        self.assertFalse(Exercise.objects.exists())

    def test_an_empty_page_is_not_given_to_a_class(self) -> None:
        exercise = self.begin("empty")
        school_class = factories.school_class(teachers=[self.teacher], students=[])
        with self.assertRaises(NotAllowed):
            give_exercise(self.teacher, exercise, school_class, due_at=factories.timezone.now())
        self.assertContains(self.client.get(f"/exercises/{exercise.pk}/"), "cannot be given yet")


class DraftTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.exercise = factories.exercise(cls.teacher)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)
        self.url = f"/bench/{self.exercise.pk}/"

    def use(self, slug: str, *, status: int = 200, **values: object):
        response = self.client.post(f"{self.url}do/{slug}/", values, **HTMX)
        self.assertEqual(response.status_code, status)
        return response

    def part(self) -> Part:
        return services.open_draft(self.teacher, self.exercise).part

    def test_the_bench_works_on_a_copy_until_it_is_kept(self) -> None:
        self.use("key", semitones=2)
        self.assertEqual(self.part().notes[0].pitch, melody().notes[0].pitch + 2)
        self.exercise.refresh_from_db()
        self.assertEqual(self.exercise.part.number, 1)
        self.client.post(f"{self.url}keep/")
        self.exercise.refresh_from_db()
        self.assertEqual((self.exercise.part.number, self.exercise.part.read()), (2, self.part()))
        self.client.post(f"{self.url}keep/")
        self.assertEqual(self.exercise.parts.count(), 2)

    def test_takes_stay_with_the_part_they_were_recorded_to(self) -> None:
        student = factories.student()
        given = factories.assignment(
            self.exercise, factories.school_class(teachers=[self.teacher], students=[student])
        )
        take = factories.take(student, given)
        self.use("key", semitones=12)
        self.client.post(f"{self.url}keep/")
        take.refresh_from_db()
        self.assertEqual(take.part.number, 1)
        self.assertEqual(take.measurement.result["measures"]["transposition"], 0)

    def test_an_empty_page_is_not_kept_in_place_of_a_part(self) -> None:
        self.use("pick", first_bar=1, last_bar=8)
        self.assertContains(self.use("delete"), "disabled>Keep")
        self.assertEqual(self.part().notes, ())
        self.assertEqual(self.client.post(f"{self.url}keep/").status_code, 403)
        self.exercise.refresh_from_db()
        self.assertEqual(self.exercise.part.number, 1)

    def test_undo_and_redo_go_all_the_way_and_last(self) -> None:
        parts = [self.part()]
        for semitones in (1, 2, 3):
            self.use("key", semitones=semitones)
            parts.append(self.part())
        for expected in parts[-2::-1]:
            self.client.post(f"{self.url}undo/", **HTMX)
            self.assertEqual(self.part(), expected)
        self.client.post(f"{self.url}undo/", **HTMX)
        self.assertEqual(self.part(), parts[0])
        for expected in parts[1:]:
            self.client.post(f"{self.url}redo/", **HTMX)
            self.assertEqual(self.part(), expected)

    def test_a_change_after_undo_forgets_what_was_taken_back(self) -> None:
        self.use("key", semitones=1)
        self.client.post(f"{self.url}keep/")
        self.client.post(f"{self.url}undo/", **HTMX)
        response = self.use("key", semitones=5)
        self.assertNotContains(response, "Do again")
        self.assertEqual(DraftState.objects.count(), 2)
        self.assertContains(response, "Not kept yet")

    def test_picking_changes_what_tools_work_on_and_nothing_else(self) -> None:
        self.assertContains(self.use("pick", first_bar=2, last_bar=2), "4 notes are picked")
        self.assertContains(self.use("touch", note=0), "bar 1, beat 1")
        self.use("touch", note=3, more="on")
        self.assertEqual(DraftState.objects.count(), 1)
        self.use("move", value=480, times=0, semitones=12)
        moved = [a.pitch - b.pitch for a, b in zip(self.part().notes, melody().notes, strict=True)]
        self.assertEqual([k for k, by in enumerate(moved) if by], [0, 3])
        self.use("touch", way="next")
        self.assertEqual(services.open_draft(self.teacher, self.exercise).selected, {4})

    def test_steps_are_written_and_the_next_place_is_ready(self) -> None:
        response = self.use("steps", text="C5 D _ E+G", bar=9, beat=2, value=240, velocity=70, hand="left")
        tool = next(t for t in response.context["tools"] if t.slug == "steps")
        self.assertEqual((tool["bar"].value(), tool["beat"].value(), tool["value"].value()), (9, "4", 240))
        new = [
            (n.onset_tick - 8 * 1920, n.length_tick, n.pitch) for n in self.part().notes if n.hand == "left"
        ]
        self.assertEqual(new, [(480, 240, 72), (720, 480, 74), (1200, 240, 76), (1200, 240, 79)])

    def test_the_note_card_shows_and_sets_exact_figures(self) -> None:
        card = {t.slug: t for t in self.use("touch", note=5).context["tools"]}["note"]
        self.assertEqual(card.initial, {"place": "2.2.1.0", "length": 460, "name": "C5", "velocity": 72})
        self.use("note", place="2.2.3.5", length=100, name="B♭4", velocity=101)
        note = self.part().notes[5]
        self.assertEqual(
            (note.onset_tick, note.length_tick, note.pitch, note.velocity), (1920 + 480 + 245, 100, 70, 101)
        )
        for wrong in ({"place": "2.9"}, {"place": "two"}, {"name": "Q"}, {"place": "0.1"}):
            values = {"place": "2.2", "length": 100, "name": "C4", "velocity": 90} | wrong
            self.use("note", **values, status=422)
        self.use("touch", way="none")
        self.assertContains(
            self.use("note", place="1", length=9, name="C4", velocity=9, status=422), "pick it first",
            status_code=422,
        )  # fmt: skip

    def test_a_place_on_the_page_becomes_a_note_there(self) -> None:
        box = PLAIN_LOOK.page(self.part()).rows[0].targets[2]
        self.use("touch", note=2)
        self.use("delete")
        self.use("put", row=0, x=box.x + 2, y=box.y, value=480, velocity=66)
        note = self.part().notes[2]
        self.assertEqual((note.onset_tick, note.pitch, note.velocity), (960, melody().notes[2].pitch, 66))
        self.use("put", row=0, x=-4, y=-4, value=480, velocity=66, status=422)

    def test_looking_before_quantising_changes_nothing(self) -> None:
        self.use("touch", note=1)
        self.use("move", value=1, times=62, semitones=0)
        self.use("touch", way="none")
        values = {"step": 240, "strength": 100, "swing": 1}
        self.assertContains(self.use("quantise", **values, look="1"), "One note would move")
        self.assertNotEqual(self.part().notes[1].onset_tick % 240, 0)
        self.use("quantise", **values)
        self.assertEqual({n.onset_tick % 240 for n in self.part().notes}, {0})

    def test_what_cannot_be_done_is_said_beside_the_tool_and_loses_nothing(self) -> None:
        before = self.part()
        for slug, values, words in (
            ("steps", {"text": "C4 ?", "bar": 1, "beat": 1, "value": 480, "velocity": 80}, "unknown note"),
            ("steps", {"text": "", "bar": 1, "beat": 1, "value": 480, "velocity": 80}, "required"),
            ("steps", {"text": "C4", "bar": 1, "beat": 7, "value": 480, "velocity": 80}, "has 4 beats"),
            ("bars", {"how": "repeat", "first_bar": 7, "last_bar": 30, "times": 1}, "has bars 1 to 8"),
            ("steps", {"text": "C12", "bar": 1, "beat": 1, "value": 480, "velocity": 80}, "beyond the keys"),
            ("key", {"semitones": 4800}, "less than or equal"),
        ):
            with self.subTest(slug=slug, values=values):
                self.assertContains(self.use(slug, **values, status=422), words, status_code=422)
        self.assertEqual(self.part(), before)
        self.assertEqual(self.client.post(f"{self.url}do/nothing/").status_code, 404)

    def test_every_tool_works_with_what_it_offers(self) -> None:
        """Each is filled in as it lies there, keyboard and drums, with notes and without."""
        for part in (melody(), beat(), melody().with_notes(()), beat().with_notes(())):
            for tool in TOOLS:
                if part.kind not in tool.kinds or tool is JoinTool:
                    continue
                picked = frozenset({1}) if part.notes else ALL
                lying = tool(part=part, selected=picked)
                data = {name: lying.get_initial_for_field(f, name) for name, f in lying.fields.items()}
                for name, field in lying.fields.items():
                    if data[name] is None and getattr(field, "choices", None):
                        data[name] = next(iter(field.choices))[0]
                text = "C4" if part.kind is Kind.KEYBOARD else "kick"
                values = {k: v for k, v in data.items() if v is not False and v is not None} | {"text": text}
                used = tool(values, part=part, selected=picked)
                with self.subTest(tool.slug, kind=part.kind, notes=len(part.notes)):
                    if tool is NoteTool and not picked:
                        self.assertFalse(used.is_valid())
                        continue
                    self.assertTrue(used.is_valid(), used.errors)
                    self.assertIsInstance(used.apply(part, picked), Edited)

    def test_a_colleague_may_not_even_by_service(self) -> None:
        colleague = factories.teacher()
        for act in (
            lambda: services.open_draft(colleague, self.exercise),
            lambda: services.step(colleague, self.exercise, by=-1),
            lambda: services.keep(colleague, self.exercise),
        ):
            self.assertRaises(NotAllowed, act)

    def test_queries_do_not_grow_with_what_was_done(self) -> None:
        self.client.get(self.url)
        for times in (1, 12):
            for _ in range(times):
                self.use("key", semitones=1 if times == 1 else -1)
            with self.subTest(times=times), self.assertNumQueries(11):
                self.client.get(self.url)

    def test_the_kept_part_is_what_the_file_holds(self) -> None:
        self.use("steps", text="C6", bar=9, beat=1, value=960, velocity=99)
        self.client.post(f"{self.url}keep/")
        file = self.client.get(f"/exercises/{self.exercise.pk}/part.mid").content
        self.assertEqual(read_part(file, kind=Kind.KEYBOARD).notes[-1].pitch, 84)
