"""Parts are begun, changed, taken back and kept."""

import json
import re
from dataclasses import replace
from unittest import mock

from django.test import TestCase

from ear.conventions import PLAIN
from ear.editing.edited import ALL, Edited
from ear.editing.transpose import transpose
from ear.formats.part_json import part_to_json
from ear.formats.smf_parts import read_part
from ear.notes import Articulation, Kind, Ornament, Part
from oido.assignments.services import give_exercise
from oido.bench import services
from oido.bench.models import Draft, DraftState
from oido.bench.page import AT_ONCE
from oido.bench.tools import TOOLS
from oido.bench.tools.shaping import BarsTool, JoinTool
from oido.bench.tools.single import PLAIN_LOOK, NoteTool
from oido.common.permissions import NotAllowed
from oido.exercises.history import MAX_RECENT, part_of_text
from oido.exercises.models import Exercise
from oido.takes.judging import judged
from tests.ear.parts import beat, melody
from tests.oido import factories

HTMX = {"headers": {"HX-Request": "true"}}


def rows_of(html: str) -> dict[int, str]:
    """Rows of music in an answer, by number."""
    actual = re.findall(r'(<div class="bench-row" id="row-(\d+)".*?</svg></div>)', html, re.DOTALL)
    return {int(k): row for row, k in actual}


def unnumbered(row: str) -> str:
    """A row without what the page's script renews: note numbers, and the mark of a piece sent alone."""
    plain = re.sub(r' id="t\d+"| data-first="\d+"|\s+hx-swap-oob="true"|\s+(?=>)', "", row)
    return re.sub(r"\s+", " ", plain)


class BeginTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()

    def begin_form(self, way: str, **more: str) -> dict[str, str]:
        self.client.force_login(self.teacher)
        return {
            "title": f"Made as {way}", "way": way, "meter": "4/4", "bars": "4", "tonic": "D", "mode": "major",
            "octaves": "1", "value": "480", "hand": "right", "chords": "C | Am F", "rhythm": "x",
            "chord": "Am7", "size": "3", "going": "up", "voicing": "nearest notes",
            "feel": "straight eighths", "tempo_bpm": "", "count_in_bars": "2", "level": "building", **more,
        }  # fmt: skip

    def begin(self, way: str, **more: str) -> Exercise:
        response = self.client.post("/bench/new/", self.begin_form(way, **more))
        self.assertEqual(response.status_code, 302, response.content[-3000:])
        exercise = Exercise.objects.latest("pk")
        self.assertRedirects(response, f"/bench/{exercise.pk}/")
        return exercise

    def test_each_way_makes_its_part_with_what_teachers_set(self) -> None:
        for way, kind, notes, bars, bpm in (
            ("empty", "keyboard", 0, 4, 90), ("empty-drums", "drums", 0, 4, 100), ("fingers", "keyboard", 9, 3, 90),
            ("scale", "keyboard", 8, 2, 90), ("arpeggio", "keyboard", 5, 2, 90),
            ("intervals", "keyboard", 16, 4, 90), ("chords", "keyboard", 12, 2, 90), ("groove", "drums", 16, 4, 96), ("rudiment", "drums", 33, 5, 80),
        ):  # fmt: skip
            exercise = self.begin(way)
            part = exercise.part.read()
            with self.subTest(way):
                actual = (exercise.kind, len(part.notes), len(part.bars), float(exercise.tempo_bpm))
                self.assertEqual(actual, (kind, notes, bars, bpm))

    def test_lines_for_both_hands_figures_and_fills_are_begun(self) -> None:
        for way, more, notes in (
            ("scale", {"hand": "a tenth apart"}, 16), ("fingers", {"hand": "in contrary motion"}, 18),
            ("chords", {"figure": "Alberti bass", "chords": "C | G7 | C"}, 19), ("chords", {"cadence": "plagal"}, 16),
            ("groove", {"feel": "swing ride", "fill_beats": "2", "fill_bars": "4", "bars": "4"}, 34),
            ("rudiment", {"rudiment": "flam tap"}, 17), ("fingers", {"degrees": "1 3, 2 4 5 1"}, 6),
            ("groove", {"changing_lane": "kick"}, 4 + 8),
            ("groove", {"changing_lane": "kick", "changing_bars": "X..x.... | X..x.x.."}, 2 * 5 + 8),
        ):  # fmt: skip
            with self.subTest(way, **more):
                self.assertEqual(len(self.begin(way, **more).part.read().notes), notes)
        for way, more, field in (
            ("fingers", {"hand": "a third apart"}, "hand"), ("groove", {"fill_beats": "1", "fill_bars": "9"}, "fill_bars"),
            ("groove", {"feel": "waltz", "fill_beats": "4", "fill_bars": "4"}, "variation"),
            ("fingers", {"degrees": "1 2 6"}, "degrees"), ("fingers", {"degrees": "do re"}, "degrees"),
            ("groove", {"changing_lane": "snare", "changing_bars": "X..."}, "changing_bars"),
        ):  # fmt: skip
            with self.subTest(way, **more):
                form = self.client.post("/bench/new/", self.begin_form(way, **more)).context["form"]
                self.assertEqual(list(form.errors), [field])

    def test_what_is_begun_is_nobodys_until_it_is_saved(self) -> None:
        colleague, head = factories.teacher(), factories.head()
        exercise = self.begin("scale")
        url = f"/bench/{exercise.pk}/"
        self.assertContains(self.client.get(url), "nobody else sees it yet")
        self.assertContains(self.client.get("/exercises/"), "Begun on the Bench, not saved")
        self.assertNotIn(exercise.pk, [one.pk for one in self.client.get("/exercises/").context["page"]])
        self.assertRedirects(self.client.get(f"/exercises/{exercise.pk}/"), url)
        self.assertEqual(self.client.get(f"/exercises/{exercise.pk}/give/").status_code, 404)
        for other in (colleague, head):
            self.client.force_login(other)
            self.assertEqual(self.client.get(f"/exercises/{exercise.pk}/").status_code, 404)
            self.assertEqual(self.client.post(f"{url}discard/").status_code, 404)
        self.client.force_login(self.teacher)
        self.client.post(f"{url}keep/")
        exercise.refresh_from_db()
        self.assertEqual((exercise.is_begun, exercise.part.number), (False, 1))
        self.assertIn(exercise.pk, [one.pk for one in self.client.get("/exercises/").context["page"]])
        self.assertEqual(self.client.post(f"{url}discard/").status_code, 403)
        second = self.begin("groove")
        self.client.post(f"/bench/{second.pk}/discard/")
        self.assertFalse(Exercise.objects.filter(pk=second.pk).exists())
        empty = self.begin("empty")
        self.assertEqual(self.client.post(f"/bench/{empty.pk}/keep/").status_code, 403)

    def test_beginners_are_counted_in_twice(self) -> None:
        for level, given, bars in (("first-steps", "", 2), ("building", "", 1), ("first-steps", "0", 0)):
            self.assertEqual(self.begin("scale", level=level, count_in_bars=given).count_in_bars, bars)

    def test_what_is_wrong_is_said_beside_its_cause(self) -> None:
        self.client.force_login(self.teacher)
        form = {
            "title": "x", "way": "chords", "meter": "4/4", "bars": "4", "mode": "major", "octaves": "1",
            "value": "480", "hand": "right", "chords": "C | Zap", "size": "3", "going": "up",
            "voicing": "nearest notes", "feel": "shuffle", "count_in_bars": "1",
            "level": "building",
        }  # fmt: skip
        response = self.client.post("/bench/new/", form)
        self.assertContains(response, "Bar 2: “Zap” is not a chord", status_code=422)
        self.assertEqual(list(response.context["form"].errors), ["chords"])
        self.assertFalse(Exercise.objects.exists())

    def test_an_empty_page_is_not_given_to_a_class(self) -> None:
        exercise = self.begin("empty")
        school_class = factories.school_class(teachers=[self.teacher], students=[])
        with self.assertRaises(NotAllowed):
            give_exercise(self.teacher, exercise, school_class, due_at=factories.timezone.now())


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

    def test_what_is_not_saved_is_said_wherever_the_exercise_stands(self) -> None:
        factories.school_class(teachers=[self.teacher], students=[])
        addresses = ("/exercises/", f"/exercises/{self.exercise.pk}/", f"/exercises/{self.exercise.pk}/give/")
        services.open_draft(self.teacher, self.exercise)
        for address in addresses:
            self.assertNotContains(self.client.get(address), "on the Bench</em>")
            self.assertNotContains(self.client.get(address), "not saved")
        self.use("key", semitones=2)
        for address, words in zip(
            addresses, ("unsaved changes", "Students have the version", "the saved version"), strict=True
        ):
            self.assertContains(self.client.get(address), words)

    def test_a_version_of_another_exercise_is_refused(self) -> None:
        other = factories.exercise(self.teacher).part
        self.assertRaises(NotAllowed, services.restore_version, self.teacher, self.exercise, other)

    def test_a_selection_of_notes_that_are_gone_is_empty(self) -> None:
        draft = services.open_draft(self.teacher, self.exercise).draft
        Draft.objects.filter(pk=draft.pk).update(selected=[0, 4000, -1])
        self.assertEqual(services.open_draft(self.teacher, self.exercise).selected, {0})

    def test_a_version_is_brought_back_as_a_step_that_is_undone(self) -> None:
        first = self.part()
        self.use("text", text="1: C6/1")
        self.client.post(f"{self.url}keep/")
        second = self.part()
        page = self.client.get(f"{self.url}versions/")
        self.assertContains(page, "current version")
        self.assertEqual([one.number for one in page.context["versions"]], [2, 1])
        newest = page.context["versions"][0].changed
        self.assertEqual((newest.other + newest.more, newest.other + newest.fewer), (1, 4))
        self.assertContains(self.client.get(f"{self.url}versions/?version=1"), "Version 1, 8")
        self.assertContains(self.client.get(f"/exercises/{self.exercise.pk}/"), "2 versions")
        self.assertRedirects(self.client.post(f"{self.url}versions/1/"), self.url)
        self.assertEqual(self.part(), first)
        self.assertContains(self.client.get(self.url), "Undo: An earlier version")
        self.client.post(f"{self.url}undo/", **HTMX)
        self.assertEqual(self.part(), second)
        self.assertEqual(self.client.post(f"{self.url}versions/9/").status_code, 404)

    def test_old_steps_are_dropped_by_their_number_and_old_names_are_still_said(self) -> None:
        self.use("key", semitones=1)
        DraftState.objects.filter(number=1).update(act="steps")
        self.assertContains(self.client.get(self.url), "Undo: Write steps")
        with mock.patch.object(Draft, "steps_kept", 3):
            for k in range(6):
                self.use("key", semitones=1 if k % 2 else -1)
        draft = Draft.objects.get(exercise=self.exercise)
        self.assertEqual(sorted(draft.states.values_list("number", flat=True)), [0, 4, 5, 6, 7])
        for _ in range(5):
            self.client.post(f"{self.url}undo/", **HTMX)
        draft.refresh_from_db()
        self.assertEqual(draft.position, 4)
        self.assertContains(self.client.get(self.url), "Nothing to undo")
        self.client.post(f"{self.url}keep/")

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
        self.assertEqual(judged(take).facts.transposition, 0)

    def test_an_empty_page_is_not_kept_in_place_of_a_part(self) -> None:
        self.use("pick", first_bar=1, last_bar=8)
        self.assertContains(self.use("delete"), "disabled>Save")
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
        self.assertNotContains(response, "Redo")
        self.assertEqual(DraftState.objects.count(), 2)
        self.assertContains(response, "Not saved")

    def test_the_pedal_is_changed_where_notes_are_picked(self) -> None:
        self.use("touch", note=4)
        self.use("pedal", first_bar=1, last_bar=2, how="notes")
        self.assertEqual([m.start_tick for m in self.part().pedal], [0, 1920])
        self.use("pedal", first_bar=1, last_bar=1, how="lift")
        self.assertEqual([m.start_tick for m in self.part().pedal], [1920])
        refused = self.use("pedal", status=422, first_bar=1, last_bar=1, how="notes")
        self.assertContains(refused, "No picked note begins in bars 1 to 1", status_code=422)

    def test_chord_names_words_slurs_and_articulations_are_written_and_taken_back(self) -> None:
        self.use("signs", kind="chord", text="C+7", bar=1, beat=3)
        self.use("signs", kind="text", text="with weight", bar=2, beat=1)
        self.assertEqual([(c.tick, c.name) for c in self.part().chords], [(960, "Caug7")])
        refused = self.use("signs", status=422, kind="slur")
        self.assertContains(refused, "Pick the notes first.", status_code=422)
        self.use("touch", notes="0 1 2")
        drawn = self.use("signs", kind="slur")
        self.assertContains(drawn, "is-slur")
        self.assertContains(drawn, "with weight")
        self.use("signs", kind="staccato")
        self.assertEqual({n.articulations for n in self.part().notes[:3]}, {(Articulation.STACCATO,)})
        self.assertEqual(self.part().notes[0].written_end_tick, melody().notes[0].end_tick)
        self.use("signs", kind="waiting")
        tempos = [(c.tick, c.bpm) for c in self.part().tempos.changes]
        self.assertEqual(tempos, [(0, 96.0), (960, 48.0), (1440, 96.0)])
        self.assertEqual([s.kind.value for s in self.part().signs], ["slur", "fermata", "text"])
        for kind in ("waiting", "staccato", "slur"):
            self.use("signs", kind=kind)
        self.use("signs", kind="text", bar=2, beat=1)
        self.use("signs", kind="chord", bar=1, beat=3)
        self.assertEqual(self.part(), melody())
        wrong = self.use("signs", status=422, kind="chord", text="Q7", bar=1, beat=1)
        self.assertContains(wrong, "There is no chord", status_code=422)
        self.use("signature", bar=1, meter="7/8 3+2+2")
        self.assertEqual(self.part().meters.first.groups, (3, 2, 2))

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

    def test_the_note_card_shows_and_sets_exact_figures(self) -> None:
        self.use("touch", note=5)
        card = self.client.get(f"{self.url}do/note/", **HTMX).context["tool"]
        self.assertEqual(
            card.initial,
            {
                "bar": 2,
                "beat": 2.0,
                "length": 0.9583,
                "name": "C5",
                "velocity": 72,
                "ornament": "",
                "small": "",
                "word": "",
            },
        )
        trilled = self.use("note", bar=2, beat=2, length=0.9583, name="C5", velocity=72, ornament="trill")
        self.assertContains(trilled, "label-ornaments")
        self.assertIs(self.part().notes[5].ornament, Ornament.TRILL)
        self.use("note", bar=2, beat=2, length=0.9583, name="C5", velocity=72, ornament="flam", status=422)
        kept = {"bar": 2, "beat": 2, "length": 0.9583, "name": "C5", "velocity": 72, "ornament": "grace"}
        self.use("note", **kept, small="D♭5", word=" home-  ")
        self.assertEqual((self.part().notes[5].grace_semitones, self.part().notes[5].label), (1, "home-"))
        card = self.client.get(f"{self.url}do/note/", **HTMX).context["tool"]
        self.assertEqual((card.initial["word"], card.initial["name"]), ("home-", "C5"))
        self.use("note", **kept)
        self.assertEqual((self.part().notes[5].grace_semitones, self.part().notes[5].label), (None, None))
        for wrong in ({"small": "C1"}, {"small": "what"}, {"word": "x" * 80}):
            self.use("note", **{**kept, **wrong}, status=422)
        self.use("note", bar=2, beat=2.5104, length=0.2083, name="B♭4", velocity=101)
        note = self.part().notes[5]
        self.assertEqual(
            (note.onset_tick, note.length_tick, note.pitch, note.velocity), (1920 + 480 + 245, 100, 70, 101)
        )
        for wrong in ({"beat": 9}, {"bar": "two"}, {"beat": 0.5}, {"name": "Q"}, {"bar": 0}, {"length": 0}):
            values = {"bar": 2, "beat": 2, "length": 0.5, "name": "C4", "velocity": 90} | wrong
            self.use("note", **values, status=422)
        self.use("touch", way="none")
        self.assertContains(
            self.use("note", bar=1, beat=1, length=0.1, name="C4", velocity=9, status=422), "Pick one note first",
            status_code=422,
        )  # fmt: skip

    def test_a_place_on_the_page_becomes_a_note_there(self) -> None:
        box = PLAIN_LOOK.page(self.part()).rows[0].targets[2]
        self.use("touch", note=2)
        self.use("delete")
        self.use("put", row=0, x=box.x + 2, y=box.y, value=480)
        note = self.part().notes[2]
        self.assertEqual((note.onset_tick, note.pitch, note.velocity), (960, melody().notes[2].pitch, 72))
        self.use("put", row=0, x=-4, y=-4, value=480, status=422)
        # By keyboard at a tick, at the pitch of what is picked, as loud as the note before.
        self.use("put", tick=1920 * 9, value=240)
        self.assertEqual(
            (self.part().notes[-1].onset_tick, self.part().notes[-1].pitch), (1920 * 9, note.pitch)
        )

    def test_a_change_sends_the_rows_that_changed_and_they_make_the_whole_page(self) -> None:
        """Put in place of the old ones, they are what the whole page shows, whatever was done."""
        part = self.part()
        acts = (
            ("drag", {"note": 9, "ticks": 120, "steps": 2, "longer": 0}), ("weigh", {"weights": "3:99"}),
            ("cell", {"how": "turn", "tick": 960, "pitch": 84, "step": 240, "value": 240, "velocity": 90, "steps": 0,
              "first_bar": 1, "last_bar": 2}),
            ("touch", {"notes": "1 2 3"}), ("delete", {}),
            ("bars", {"how": "repeat", "first_bar": 1, "last_bar": 2, "times": 1}),
            ("bars", {"how": "repeat", "first_bar": 5, "last_bar": 6, "times": 1, "ending_bars": 1}),
            ("key", {"semitones": 1, "to_key": ""}),
        )  # fmt: skip
        shown = rows_of(self.client.get(self.url).content.decode())
        for slug, values in acts:
            content = self.use(slug, **values).content.decode()
            sent = rows_of(content)
            shown = sent if 'id="bench-page"' in content else shown | sent
            whole = rows_of(self.client.get(self.url).content.decode())
            with self.subTest(slug):
                self.assertEqual(
                    {k: unnumbered(row) for k, row in shown.items()},
                    {k: unnumbered(row) for k, row in whole.items()},
                )
                if slug != "touch":
                    starts = json.loads(re.search(r'id="note-starts"[^>]*>([^<]*)<', content)[1])
                    firsts = [int(re.search(r'data-first="(\d+)"', whole[k])[1]) for k in sorted(whole)]
                    self.assertEqual(starts, firsts)
                if slug in ("drag", "weigh", "cell"):
                    self.assertLess(len(sent), len(whole))
        self.assertNotEqual(self.part(), part)

    def test_of_many_rows_those_in_view_are_drawn_at_once_and_the_others_when_they_are_asked_for(
        self,
    ) -> None:
        long = factories.exercise(self.teacher, melody(bars=80))
        url = f"/bench/{long.pk}/"

        def seen(rows: str) -> dict:
            return {"headers": {"HX-Request": "true", "Rows-Seen": rows}}

        def late(rows: dict[int, str]) -> list[int]:
            return [k for k, row in rows.items() if "data-late" in row]

        def whole(work: services.Work) -> dict[int, str]:
            page = self.client.get(url, {"rows": "all"}).content.decode()
            self.assertIn(f'data-state="{work.draft.state_id}"', page)
            return {k: unnumbered(row) for k, row in rows_of(page).items()}

        opened = self.client.get(url).content.decode()
        shown = rows_of(opened)
        self.assertGreater(len(shown), 2 * AT_ONCE)
        self.assertEqual(late(shown), list(range(AT_ONCE, len(shown))))
        # Its bars are known, and how many of the notes stand before them; the text is written out later, too.
        self.assertIn('data-bar="80"', shown[len(shown) - 1])
        self.assertNotIn("<textarea", opened)
        self.assertContains(self.client.get(url, {"rows": "all"}), "<textarea")
        sent = self.client.post(f"{url}do/key/", {"semitones": 2, "to_key": ""}, **seen("9-12"))
        shown |= rows_of(sent.content.decode())
        self.assertEqual([k for k in shown if k not in late(shown)], [9, 10, 11, 12])
        work = services.open_draft(self.teacher, long)
        while wanted := late(shown):
            ask = ",".join(map(str, wanted[: AT_ONCE + 3]))
            got = rows_of(
                self.client.get(
                    f"{url}rows/", {"state": work.draft.state_id, "rows": ask}, **HTMX
                ).content.decode()
            )
            self.assertEqual(list(got), wanted[:AT_ONCE])
            shown |= got
        self.assertEqual({k: unnumbered(row) for k, row in shown.items()}, whole(work))
        # What it would be is drawn as far as it is seen; a page that does not say what is seen gets all.
        look = {"semitones": 3, "to_key": "", "look": "1"}
        looked = rows_of(self.client.post(f"{url}do/key/", look, **seen("3-5")).content.decode())
        self.assertEqual([k for k in looked if k not in late(looked)], [3, 4, 5])
        self.assertEqual(late(rows_of(self.client.post(f"{url}do/key/", look, **HTMX).content.decode())), [])
        # Nothing of it is in view: all of it comes later.
        unseen = rows_of(self.client.post(f"{url}do/key/", look, **seen("900-901")).content.decode())
        self.assertEqual(len(late(unseen)), len(shown))

    def test_a_narrow_page_has_fewer_bars_in_a_row_and_stays_so(self) -> None:
        wide = rows_of(self.client.get(self.url).content.decode())
        self.client.cookies["page-layout"] = "narrow"
        narrow = rows_of(self.client.get(self.url).content.decode())
        self.assertEqual((len(wide), len(narrow)), (2, 8))
        self.client.cookies["page-layout"] = "sideways"
        self.assertEqual(rows_of(self.client.get(self.url).content.decode()), wide)
        # What a page says of itself goes before what another one was like.
        says = {"headers": {"HX-Request": "true", "Page-Layout": "narrow"}}
        last = len(self.part().notes) - 1
        moved = {"note": last, "ticks": 0, "steps": 1, "longer": 0}
        self.assertEqual(
            list(rows_of(self.client.post(f"{self.url}do/drag/", moved, **says).content.decode())), [7]
        )
        all_rows = self.client.get(f"{self.url}rows/", **says).content.decode()
        self.assertIn('data-layout="narrow"', all_rows)
        self.assertEqual(len(rows_of(all_rows)), 8)

    def test_rows_are_asked_for_as_the_page_has_them_or_all_are_sent(self) -> None:
        state = services.open_draft(self.teacher, self.exercise).draft.state_id
        asked = {"state": state, "rows": "0,99,1"}
        rows = rows_of(self.client.get(f"{self.url}rows/", asked, **HTMX).content.decode())
        self.assertEqual(list(rows), [0, 1])
        for wrong in ("", "a", "1;2", "-1", "1,,2"):
            answer = self.client.get(f"{self.url}rows/", {"state": state, "rows": wrong}, **HTMX)
            self.assertEqual((answer.status_code, rows_of(answer.content.decode())), (200, {}))
        # Where one writes on is known of notes that are not drawn, too.
        first = self.part().notes[5].onset_tick
        self.assertContains(self.use("touch", notes="9 5"), f'data-tick="{first}"')
        self.use("key", semitones=2)
        late = self.client.get(f"{self.url}rows/", asked, **HTMX)
        self.assertContains(late, 'id="bench-page"')
        self.assertContains(
            late, f'data-state="{services.open_draft(self.teacher, self.exercise).draft.state_id}"'
        )

    def test_what_is_done_on_a_page_that_shows_another_state_is_not_done(self) -> None:
        def page() -> dict:
            shown = services.open_draft(self.teacher, self.exercise).draft.shown
            return {"headers": {"HX-Request": "true", "Part-Shown": shown}}

        def post(act: str, shown: dict, /, **values: object):
            return self.client.post(f"{self.url}{act}/", values, **shown)

        post("do/touch", page(), note=3)
        here = page()
        self.assertEqual(post("do/delete", here).status_code, 200)
        elsewhere, fewer = here, self.part()
        acts: tuple[tuple[str, dict], ...] = (
            ("do/drag", {"note": 3, "ticks": 240, "steps": 0, "longer": 0}), ("do/touch", {"note": 3}), ("do/delete", {}),
            ("do/key", {"semitones": 2, "look": "1"}), ("undo", {}), ("keep", {}),
        )  # fmt: skip
        for act, values in acts:
            with self.subTest(act):
                refused = post(act, elsewhere, **values)
                self.assertContains(refused, "Changed in another window", status_code=422)
                self.assertEqual(refused["HX-Retarget"], "#pick")
                self.assertContains(refused, 'id="bench-page"', status_code=422)
                self.assertContains(
                    refused, f'data-shown="{page()["headers"]["Part-Shown"]}"', status_code=422
                )
                self.assertEqual(self.part(), fewer)
        self.assertEqual(self.exercise.parts.count(), 1)
        # As many steps, and another part.
        here = page()
        post("undo", here)
        post("do/touch", page(), note=0)
        post("do/delete", page())
        self.assertEqual(post("undo", here).status_code, 422)
        state = here["headers"]["Part-Shown"].split(".")[0]
        rows = self.client.get(f"{self.url}rows/", {"state": state, "rows": "0"}, **HTMX)
        self.assertContains(rows, 'id="bench-page"')
        # Picked somewhere else: what only picks, or takes back, goes on; what is done to what is picked does not.
        here = page()
        post("do/touch", page(), note=5)
        self.assertEqual(post("do/delete", here).status_code, 422)
        self.assertEqual(post("do/touch", here, note=1).status_code, 200)
        self.assertEqual(post("undo", here).status_code, 200)
        # What was played in is not played again.
        before = len(self.part().notes)
        played = {
            "first_bar": 1, "last_bar": 1, "tempo": 100, "way": "over", "grid": 120, "hand": "",
            "events": "[[5, 144, 30, 70], [300, 128, 30, 0]]",
        }  # fmt: skip
        self.assertContains(post("do/play", elsewhere, **played), 'id="bench-page"')
        self.assertEqual(len(self.part().notes), before + 1)
        # Without a script the form says what its page shows.
        plain = self.client.post(
            f"{self.url}do/delete/", {"shown": elsewhere["headers"]["Part-Shown"]}, follow=True
        )
        self.assertContains(plain, "Changed in another window")
        self.assertEqual(len(self.part().notes), before + 1)

    def test_dragging_follows_the_staff_and_moves_what_is_picked(self) -> None:
        before = self.part().notes
        self.use("touch", notes="0 1")
        self.use("drag", note=1, ticks=240, steps=1, longer=0)
        after = self.part().notes
        moved = {
            (b.onset_tick - a.onset_tick, b.pitch - a.pitch)
            for a, b in zip(before[:2], after[:2], strict=True)
        }
        self.assertTrue(all(ticks == 240 and pitch in (1, 2) for ticks, pitch in moved), moved)
        self.assertEqual(after[2:], before[2:])
        self.use("drag", note=5, ticks=0, steps=0, longer=-100)
        self.assertEqual(self.part().notes[5].length_tick, before[5].length_tick - 100)
        self.use("weigh", weights="4:200 5:0 6:33")
        self.assertEqual([n.velocity for n in self.part().notes[4:7]], [127, 1, 33])
        for wrong in ({"weights": "4"}, {"weights": "4:loud"}, {"weights": ""}):
            self.assertContains(self.use("weigh", **wrong, status=422), 'id="bench-problem"', status_code=422)

    def test_a_grid_is_filled_cell_by_cell(self) -> None:
        exercise = factories.exercise(self.teacher, beat().with_notes(()))
        url = f"/bench/{exercise.pk}/"
        cell = {"step": 240, "value": 240, "steps": 0, "first_bar": 1, "last_bar": 1, "velocity": 80}

        def turn(**values: object):
            return self.client.post(f"{url}do/cell/", {**cell, "how": "turn", **values}, **HTMX)

        for tick, pitch, velocity in ((0, 36, 100), (0, 42, 90), (480, 38, 90)):
            self.assertContains(turn(tick=tick, pitch=pitch, velocity=velocity), 'role="grid"')
        turn(how="weigh", tick=0, pitch=36, velocity=112)
        turn(tick=0, pitch=42)
        part = services.open_draft(self.teacher, exercise).part
        actual = [(n.onset_tick, n.pitch, n.velocity) for n in part.notes]
        self.assertEqual(actual, [(0, 36, 112), (480, 38, 90)])
        self.assertContains(self.client.get(f"{url}grid/", cell), "kick, bar 1, 1: velocity 112")
        wrong = self.client.get(f"{url}grid/", {**cell, "first_bar": 0})
        self.assertContains(wrong, "only has bars 1 to", status_code=422)
        large = {**cell, "last_bar": 8, "step": 60, "low": 0, "high": 127}
        self.assertContains(self.client.get(f"{self.url}grid/", large), "too large", status_code=422)

    def test_ties_are_made_in_the_grid(self) -> None:
        cell = {
            "step": 240, "value": 240, "velocity": 80, "tick": 0, "pitch": self.part().notes[0].pitch,
            "first_bar": 1, "last_bar": 2,
        }  # fmt: skip
        length = self.part().notes[0].length_tick
        self.use("cell", how="stretch", steps=-1, **cell)
        self.assertEqual(self.part().notes[0].length_tick, 240)
        self.use("cell", how="stretch", steps=1, **cell)
        self.assertEqual(self.part().notes[0].length_tick, 480)
        self.assertGreater(length, 240)

    def test_passes_are_played_in_over_each_other_and_taken_back(self) -> None:
        exercise = factories.exercise(self.teacher, replace(beat().with_notes(()), least_bars=4))
        url = f"/bench/{exercise.pk}/"

        def play(events: list, **values: object) -> None:
            form = {
                "first_bar": 2,
                "last_bar": 3,
                "tempo": 50,
                "way": "over",
                "grid": "240",
                "hand": "",
            } | values
            response = self.client.post(f"{url}do/play/", {**form, "events": json.dumps(events)}, **HTMX)
            self.assertEqual(response.status_code, 200, response.content[:300])

        def part() -> Part:
            return services.open_draft(self.teacher, exercise).part

        quarter = 60_000 / part().tempos.first_bpm / 0.5
        # The first is early, the second late, each by less than half the grid.
        play(
            [
                [-30, 0x99, 36, 99],
                [40, 0x89, 36, 64],
                [quarter + 30, 0x99, 36, 90],
                [quarter + 90, 0x89, 36, 64],
            ]
        )
        self.assertEqual([(n.onset_tick, n.pitch) for n in part().notes], [(1920, 36), (2400, 36)])
        play(
            [
                [quarter / 2, 0x99, 42, 80],
                [quarter, 0x89, 42, 64],
                [99_000, 0x99, 42, 80],
                [99_100, 0x89, 42, 64],
            ]
        )
        self.assertEqual(
            [(n.onset_tick, n.pitch) for n in part().notes], [(1920, 36), (2160, 42), (2400, 36)]
        )
        play([[0, 0x99, 38, 80], [90, 0x89, 38, 64]], way="replace", grid="", first_bar=3)
        self.assertEqual(len(part().notes), 4)
        play([[quarter / 96, 0x99, 38, 80], [90, 0x89, 38, 64]], way="replace", grid="", last_bar=2)
        self.assertEqual([n.onset_tick for n in part().notes], [1925, 3840])
        for _ in range(4):
            self.client.post(f"{url}undo/", **HTMX)
        self.assertEqual(part().notes, ())
        wrong = {
            "first_bar": 1,
            "last_bar": 2,
            "tempo": 100,
            "way": "over",
            "grid": "",
            "hand": "",
            "events": "[[1]]",
        }
        self.assertEqual(self.client.post(f"{url}do/play/", wrong, **HTMX).status_code, 422)

    def test_labels_are_chosen_for_the_exercise(self) -> None:
        self.client.post(f"{self.url}labels/", {"labels": ["names", "count", "nonsense"]})
        self.exercise.refresh_from_db()
        self.assertEqual(self.exercise.labels, ["names", "count"])
        page = self.client.get(self.url).content.decode()
        self.assertIn("label-names", page)
        self.assertNotIn("label-fingers", page)
        # Ticked on the Bench, all rows come as they are then, and nothing of the page around them.
        ticked = self.client.post(f"{self.url}labels/", {"labels": ["count"]}, **HTMX)
        self.assertContains(ticked, 'id="bench-page"')
        self.assertContains(ticked, "label-count")
        self.assertNotContains(ticked, "<html")

    def test_another_exercise_is_put_behind(self) -> None:
        other = factories.exercise(self.teacher, melody(bars=2))
        drums = factories.exercise(self.teacher, beat())
        self.use("join", other=other.pk)
        self.assertEqual(len(self.part().bars), len(melody().bars) + 2)
        self.use("join", other=drums.pk, status=422)

    def test_sections_have_their_own_tempo_and_the_exercise_begins_at_the_first(self) -> None:
        page = self.use("section", bar=1, name="Walk", bpm=60, how="set")
        self.assertContains(page, "Walk")
        page = self.use("section", bar=5, name="Run", bpm=112.5, how="set")
        self.assertContains(page, "at 112.5")
        self.use("section", bar=9, name="Off", bpm=60, how="set", status=422)
        self.use("section", bar=2, name="", how="set", status=422)
        self.client.post(f"{self.url}keep/")
        self.exercise.refresh_from_db()
        kept = self.exercise.part.read()
        self.assertEqual((self.exercise.tempo_bpm, kept.tempos), (60, self.part().tempos))
        self.assertContains(self.client.get(f"/exercises/{self.exercise.pk}/"), "then 112.5")
        # A tempo that was set elsewhere meanwhile is not taken back by what is saved here.
        Exercise.objects.filter(pk=self.exercise.pk).update(tempo_bpm=90)
        self.use("section", bar=5, how="remove")
        self.client.post(f"{self.url}keep/")
        self.exercise.refresh_from_db()
        self.assertEqual((self.exercise.tempo_bpm, self.exercise.part.read().tempos.first_bpm), (90, 90.0))

    def test_an_empty_page_has_a_key_and_numerals_are_read_in_it(self) -> None:
        def begin(**more: str) -> Exercise:
            form = {
                "title": "New", "meter": "3/4", "bars": "2", "tonic": "C", "mode": "major", "octaves": "1", "value": "480",
                "hand": "right", "chord": "C", "size": "3", "going": "up", "voicing": "nearest notes", "rhythm": "x",
                "feel": "straight eighths", "level": "building", **more,
            }  # fmt: skip
            self.answer = self.client.post("/bench/new/", form)
            return Exercise.objects.latest("pk")

        page = begin(way="empty", key="-3").part.read()
        self.assertEqual((page.fifths, page.meters.first.numerator), (-3, 3))
        part = begin(way="chords", key="1 minor", chords="i iv V7 i").part.read()
        self.assertEqual(([mark.name for mark in part.chords], part.fifths), (["Em", "Am", "B7", "Em"], 1))
        begin(way="chords", key="0", chords="C | Am | Qx")
        self.assertContains(self.answer, "Bar 3: “Qx” is not a chord", status_code=422)
        self.assertIn("chords", self.answer.context["form"].errors)

    def test_key_and_meter_change_inside_and_are_drawn_where_they_do(self) -> None:
        page = self.use("signature", bar=5, key="-3", meter="3/4")
        self.assertContains(page, "#symbol-flat")
        self.assertContains(page, "#symbol-digit-3")
        part = self.part()
        self.assertEqual((part.fifths_at(0), part.fifths_at(part.meters.bar(5).start_tick)), (0, -3))
        self.assertEqual([bar.meter.numerator for bar in part.bars][3:6], [4, 3, 3])
        self.use("signature", bar=99, key="1", meter="", status=422)
        self.use("signature", bar=1, key="", meter="", status=200)
        self.assertEqual(self.part(), part)

    def test_fingers_are_proposed_marked_and_agreed_to(self) -> None:
        self.assertContains(self.use("hands", how="propose", finger=0), "(1)")
        self.assertTrue(any(n.is_proposed for n in self.part().notes))
        self.use("hands", how="agree", finger=0)
        self.assertEqual({(n.is_proposed, n.finger is None) for n in self.part().notes}, {(False, False)})

    def test_a_note_is_written_as_its_name_is_typed_and_said_so_everywhere(self) -> None:
        self.use("touch", note=0)
        values = {"bar": 1, "beat": 1, "length": 1, "velocity": 80}
        card = self.use("note", **values, name="D♭5")
        self.assertContains(card, "D♭5, bar 1, beat 1")
        self.assertEqual(self.part().notes[0].name_fifth, -5)
        self.use("note", **values, name="C#5")
        self.assertEqual((self.part().notes[0].pitch, self.part().notes[0].name_fifth), (73, 7))
        # What stood there and was not typed anew stays the part's own choice.
        self.use("touch", note=1)
        second = self.part().notes[1]
        name = PLAIN.sound(self.part(), second.pitch, tick=second.onset_tick)
        self.use("note", bar=1, beat=2, length=0.8, velocity=70, name=name)
        self.assertIsNone(self.part().notes[1].name_fifth)
        self.client.post(f"{self.url}keep/")
        notation = self.client.get(f"/exercises/{self.exercise.pk}/part.musicxml").content.decode()
        self.assertIn("<step>C</step><alter>1</alter>", notation.replace("\n", "").replace(" ", ""))

    def test_bars_are_split_joined_copied_and_kept(self) -> None:
        notes = self.part().notes
        for how, meter, bars in (("split", 2, 16), ("join", 4, 8)):
            self.use("bars", how=how, first_bar=1, last_bar=len(self.part().bars), times=1)
            actual = (self.part().meters.first.numerator, len(self.part().bars), self.part().notes)
            self.assertEqual(actual, (meter, bars, notes))
        self.use("bars", how="copy", first_bar=2, last_bar=3, times=1, before=1)
        self.assertEqual(len(self.part().bars), 10)
        self.use("bars", how="only", first_bar=3, last_bar=4, times=1)
        self.assertEqual(
            [n.pitch for n in self.part().notes], [n.pitch for n in notes if n.onset_tick < 2 * 1920]
        )
        self.assertContains(
            self.use("bars", how="join", first_bar=1, last_bar=1, times=1, status=422),
            "cannot be paired",
            status_code=422,
        )

    def test_bars_open_on_what_is_picked_and_empty_ones_go_before_the_bar_named(self) -> None:
        part = self.part()
        picked = frozenset(i for i, bar in enumerate(part.bar_of_note) if bar in (3, 4))
        tool = BarsTool(part=part, selected=picked)
        self.assertEqual([tool[name].value() for name in ("first_bar", "last_bar", "before")], [3, 4, 3])
        first = part.bars[2].start_tick
        self.use("bars", how="insert", first_bar=1, last_bar=1, before=3, times=2)
        onsets = {n.onset_tick for n in self.part().notes}
        width = part.bars[2].end_tick - first
        self.assertEqual({tick for tick in onsets if first <= tick < first + 2 * width}, set())
        self.assertEqual(len(self.part().bars), len(part.bars) + 2)

    def test_what_a_tool_would_do_is_drawn_and_said_and_not_done(self) -> None:
        self.use("touch", note=1)
        self.use("move", value=1, times=64, semitones=0)
        self.use("move", value=1, times=36, semitones=0)
        self.use("touch", way="none")
        before = self.part()
        values = {"step": 240, "strength": 100, "swing": 1}
        looked = self.use("quantise", **values, look="1")
        self.assertContains(looked, "One note would change")
        self.assertRegex(looked.content.decode(), r"ms,\s+[+−]0\.\d+ of a beat")
        self.assertContains(looked, 'data-unclear="1"')
        self.assertContains(looked, "is-new")
        self.assertEqual(set(rows_of(looked.content.decode())), {0})
        looked = self.use("bars", how="delete", first_bar=2, last_bar=8, times=1, look="1")
        self.assertContains(looked, "would be removed")
        self.assertContains(looked, 'id="bench-page"')
        self.assertContains(self.use("key", semitones=0, look="1"), "This would change nothing.")
        # What is being filled in still is told, and its form is left alone.
        looked = self.use("quantise", step=7, look="1", status=422)
        self.assertNotIn("HX-Retarget", looked)
        self.assertContains(looked, "Grid: ", status_code=422)
        self.assertEqual(self.part(), before)
        self.use("quantise", **values)
        self.assertEqual({n.onset_tick % 240 for n in self.part().notes}, {0})

    def test_only_what_lies_off_is_quantised(self) -> None:
        for note, ticks in ((1, 60), (2, 12)):
            self.use("drag", note=note, ticks=ticks, steps=0, longer=0)
        self.use("touch", way="none")
        self.use("quantise", step=240, strength=100, swing=1, off_by=30)
        self.assertEqual([n.onset_tick % 240 for n in self.part().notes[1:3]], [0, 12])

    def test_a_state_is_what_lies_stored_and_read_once(self) -> None:
        first = services.open_draft(self.teacher, self.exercise)
        self.assertIs(services.open_draft(self.teacher, self.exercise).part, first.part)
        other = transpose(first.part, ALL, semitones=5).part
        first.draft.states.filter(number=0).update(data=part_to_json(other))
        self.assertEqual(services.open_draft(self.teacher, self.exercise).part, other)
        texts = [json.dumps(part_to_json(melody(bars=n))) for n in range(1, MAX_RECENT + 2)]
        kept = [part_of_text(text) for text in texts]
        self.assertIs(part_of_text(texts[-1]), kept[-1])
        self.assertIsNot(part_of_text(texts[0]), kept[0])

    def test_the_text_is_the_part_and_what_is_written_there_is_done(self) -> None:
        def text() -> str:
            self.text_form = self.client.get(f"{self.url}do/text/", **HTMX)
            return self.text_form.context["tool"]["text"].value()

        before = self.part()
        self.use("text", text=text())
        self.assertEqual(self.part(), before)
        lines = text().splitlines()
        answer = self.use(
            "text", text="\n".join(["1 R: C6/1" if before.notes[0].hand else "1: C6/1", *lines[1:]])
        )
        self.assertEqual(set(rows_of(answer.content.decode())), {0})
        self.assertEqual([n.pitch for n in self.part().notes if n.onset_tick < 1920], [84])
        self.assertRegex(text(), r"^1(:| R:) C6(@\d+)?/1\n")
        # Without a script a tool is opened on the page.
        page = self.client.get(f"{self.url}do/quantise/")
        self.assertContains(page, 'id="quantise-do"')
        self.assertContains(page, "data-page-view")

    def test_copied_notes_are_put_at_a_place_here_and_in_another_exercise_of_ones_own(self) -> None:
        self.use("touch", bar=1)
        notes = " ".join(map(str, sorted(services.open_draft(self.teacher, self.exercise).selected)))
        first = [n for n in self.part().notes if n.onset_tick < 1920]
        self.assertEqual(len(notes.split()), len(first))
        state = services.open_draft(self.teacher, self.exercise).draft.state_id
        self.use("delete")
        self.use("paste", state=state, notes=notes, tick=1920 * 8)
        self.assertEqual(
            [n for n in self.part().notes if n.onset_tick >= 1920 * 8],
            [replace(n, onset_tick=n.onset_tick + 1920 * 8) for n in first],
        )
        other = factories.exercise(self.teacher, melody(bars=1).with_notes(()))
        url = f"/bench/{other.pk}/do/paste/"
        values = {"state": state, "notes": notes, "tick": 0, "of": self.exercise.pk}
        self.assertEqual(self.client.post(url, values, **HTMX).status_code, 200)
        self.assertEqual(list(services.open_draft(self.teacher, other).part.notes), first)
        drums = factories.exercise(self.teacher, beat())
        wrong = self.client.post(f"/bench/{drums.pk}/do/paste/", values, **HTMX)
        self.assertContains(wrong, "another instrument", status_code=422)
        # What somebody else has on a Bench is nobody's to copy.
        colleague = factories.teacher()
        self.client.force_login(colleague)
        own = factories.exercise(colleague, melody())
        self.assertEqual(self.client.post(f"/bench/{own.pk}/do/paste/", values, **HTMX).status_code, 404)

    def test_whole_bars_and_all_of_a_hand_are_picked(self) -> None:
        def picked() -> list[int]:
            return sorted(services.open_draft(self.teacher, self.exercise).selected)

        bars = self.part().bar_of_note.tolist()
        self.use("touch", bar=2)
        self.use("touch", bar=4, more="on")
        self.assertEqual(picked(), [i for i, bar in enumerate(bars) if bar in (2, 4)])
        self.use("touch", note=len(bars) - 1)
        self.use("touch", way="bars")
        self.assertEqual(picked(), [i for i, bar in enumerate(bars) if bar == bars[-1]])
        self.use("touch", way="alike")
        self.assertEqual(len(picked()), len(bars))

    def test_what_cannot_be_done_is_said_beside_the_tool_and_loses_nothing(self) -> None:
        before = self.part()
        for slug, values, words in (
            ("text", {"text": "1: C4\n2: ?"}, "Line 2: There is no note"),
            ("text", {"text": "1: 7=C4"}, "Bar 1 has no beat 7"),
            ("bars", {"how": "repeat", "first_bar": 7, "last_bar": 30, "times": 1}, "only has bars 1 to 8"),
            ("text", {"text": "C12"}, "outside the range of the keyboard"),
            ("paste", {"state": 7, "notes": "1", "tick": 0}, "The copied notes are gone"),
            ("put", {"value": 480}, "There is no line or space"),
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
                if not tool.serves(part.instrument) or tool is JoinTool:
                    continue
                picked = frozenset({1}) if part.notes else ALL
                lying = tool(part=part, selected=picked)
                data = {name: lying.get_initial_for_field(f, name) for name, f in lying.fields.items()}
                for name, field in lying.fields.items():
                    if data[name] is None and getattr(field, "choices", None):
                        data[name] = next(iter(field.choices))[0]
                text = "C" if part.kind is Kind.KEYBOARD else "kick"
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
            lambda: services.save_work(colleague, self.exercise),
        ):
            self.assertRaises(NotAllowed, act)

    def test_queries_do_not_grow_with_what_was_done(self) -> None:
        self.client.get(self.url)
        for times in (1, 12):
            for _ in range(times):
                self.use("key", semitones=1 if times == 1 else -1)
            with self.subTest(times=times), self.assertNumQueries(10):
                self.client.get(self.url)

    def test_the_kept_part_is_what_the_file_holds(self) -> None:
        self.use("text", text="9: C6/2")
        self.client.post(f"{self.url}keep/")
        file = self.client.get(f"/exercises/{self.exercise.pk}/part.mid").content
        self.assertEqual(read_part(file, kind=Kind.KEYBOARD).notes[-1].pitch, 84)
