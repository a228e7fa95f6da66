"""Exercises: made from a file, refused when the file is wrong, given to a class."""

import io
import json
import zipfile
from dataclasses import replace
from decimal import Decimal
from typing import Any

import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TestCase
from django.test.utils import CaptureQueriesContext

from ear.formats.musicxml import read_musicxml, write_compressed, write_musicxml
from ear.formats.smf_parts import read_part
from ear.formats.smf_writing import write_part
from ear.notes import STANDARD_KIT, Hand, Kind, OwnLane
from ear.practice.ladder import MAX_RUNGS, Ladder, Rung
from ear.practice.proposals import propose_ladder
from ear.practice.rules import ClickSound, RecordingRules
from oido.common.permissions import NotAllowed
from oido.common.problems import PageProblem
from oido.exercises.audio import PEAK, TAIL_S
from oido.exercises.ladder_draft import LadderDraft
from oido.exercises.models import Exercise, ImportedFile
from oido.exercises.services import (
    ExerciseFacts,
    NewExercise,
    create_from_upload,
    replace_part,
    set_ladder,
    set_rules,
)
from oido.jobs.models import Job
from tests.ear.parts import beat, two_hands
from tests.oido import factories

HTMX = {"headers": {"HX-Request": "true"}}


class MakingTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[factories.student()])

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def send(self, data: bytes, name: str = "gate.mid"):
        return self.client.post("/exercises/new/", {"file": SimpleUploadedFile(name, data)})

    def opened(self, data: bytes, name: str = "gate.mid") -> str:
        """The address of a file that was sent, and opened in the background."""
        sent = self.send(data, name)
        self.assertEqual(sent.status_code, 302, sent.content[-500:])
        factories.work_all()
        return sent["Location"]

    def make(self, data: bytes, **changes):
        """Send a file, then say what to take of it: everything of its kind, unless `changes` says otherwise."""
        url = self.opened(data)
        form = self.client.get(url).context["form"]
        filled = {
            "title": "Sea Gate", "kind": form["kind"].value(), "take": form["take"].value(), "hands": "file",
            "first_bar": form["first_bar"].value(), "last_bar": form["last_bar"].value(),
            "instructions": "Calmly.", "tempo_bpm": "", "count_in_bars": "2", "level": "secure",
        }  # fmt: skip
        return self.client.post(url, filled | changes)

    def test_a_part_is_imported_with_its_own_tempo(self) -> None:
        part = two_hands()
        for data in (write_part(part), write_musicxml(part), write_compressed(write_musicxml(part))):
            response = self.make(data)
            exercise = Exercise.objects.latest("pk")
            self.assertRedirects(response, f"/bench/{exercise.pk}/")
            self.assertEqual(exercise.part.read().named(), part.named())
            self.assertEqual(bytes(exercise.part.source_file), data)
            self.assertEqual((exercise.tempo_bpm, exercise.count_in_bars, exercise.level), (100, 2, "secure"))
        self.assertFalse(ImportedFile.objects.exists())

    def test_a_file_sent_twice_at_once_is_one_exercise(self) -> None:
        self.opened(write_part(beat()))
        first, second = ImportedFile.objects.get(), ImportedFile.objects.get()
        new = NewExercise(
            title="Sea Gate", part=beat(), kind="drums", instructions="", tempo_bpm=96, count_in_bars=2, level="secure",
        )  # fmt: skip
        create_from_upload(self.teacher, first, new)
        self.assertRaises(NotAllowed, create_from_upload, self.teacher, second, new)
        self.assertEqual(Exercise.objects.count(), 1)

    def test_a_look_that_comes_when_the_exercise_is_made_draws_nothing(self) -> None:
        url = self.opened(write_part(beat()))
        ImportedFile.objects.all().delete()
        self.assertEqual(self.client.post(url, {"look": "1"}, **HTMX).status_code, 204)
        self.assertEqual(self.client.get(url).status_code, 404)

    def test_another_tempo_is_put_into_the_part(self) -> None:
        self.make(write_part(beat()), tempo_bpm="72")
        part = Exercise.objects.get().part.read()
        self.assertEqual((part.tempos.first_bpm, part.kind), (72, Kind.DRUMS))

    def test_what_is_wrong_is_said_and_nothing_is_stored(self) -> None:
        whole = write_part(two_hands())
        for data, said in (
            (b"", "empty"), (b"hello there", "could not be read"),
        ):  # fmt: skip
            with self.subTest(said=said, data=data[:20]):
                self.assertContains(self.send(data), said, status_code=422)
        for data, said in (
            (whole[:60], "could not be read"), (write_part(two_hands(bars=0)), "holds no notes"),
            (b"PK\x03\x04zip", "could not be read"), (b"<?xml version='1.0'?><html/>", "could not be read"),
        ):  # fmt: skip
            with self.subTest(said=said, data=data[:20]):
                self.assertContains(self.client.get(self.opened(data), follow=True), said)
        for data, changes, said in (
            (whole, {"title": ""}, "required"), (whole, {"tempo_bpm": "9999"}, "less than or equal"),
            (whole, {"count_in_bars": "9"}, "less than or equal"), (whole, {"level": "wizard"}, "valid choice"),
            (whole, {"take": ["9-9"]}, "valid choice"), (whole, {"take": []}, "required"),
            (write_part(two_hands(bars=450)), {"last_bar": "450"}, "up to 400 bars"),
            (whole, {"first_bar": "7", "last_bar": "99"}, "This part only has bars 1 to"),
        ):  # fmt: skip
            with self.subTest(said=said, changes=changes):
                self.assertContains(self.make(data, **changes), said, status_code=422)
        self.assertFalse(Exercise.objects.exists())

    def test_tracks_are_chosen_and_hands_told(self) -> None:
        data = write_part(two_hands())
        url = self.opened(data)
        page = self.client.get(url)
        self.assertContains(page, "right hand")
        self.assertContains(page, "Nothing was left out.")
        self.make(data, take=["1-0"], hands="left")
        part = Exercise.objects.get().part.read()
        self.assertEqual({n.hand for n in part.notes}, {Hand.LEFT})
        self.assertEqual(len(part.notes), sum(n.hand is Hand.RIGHT for n in two_hands().notes))
        other = self.client.post(url, {"kind": "keyboard", "take": ["2-0"], "look": "1"})
        self.assertContains(other, 'id="t0"')
        self.client.force_login(factories.teacher())
        self.assertEqual(self.client.get(url).status_code, 404)

    def test_what_looks_wrong_is_listed_and_mended_only_where_it_is_ticked(self) -> None:
        part = two_hands()
        first = part.notes[0]
        late = replace(first, onset_tick=first.onset_tick + 30, velocity=1)
        data = write_part(part.with_notes([*part.notes, late]))
        url = self.opened(data)
        page = self.client.get(url)
        self.assertContains(page, "Struck twice at once")
        key = f"double:{late.onset_tick}-{late.pitch}"
        self.assertContains(page, f'value="{key}"')
        self.make(data)
        self.assertEqual(len(Exercise.objects.latest("pk").part.read().notes), len(part.notes) + 1)
        for ticked in (key, "double"):
            self.make(data, mend=[ticked])
            self.assertEqual(Exercise.objects.latest("pk").part.read().notes, part.notes)

    def test_of_a_long_work_some_bars_are_proposed_and_others_can_be_taken(self) -> None:
        data = write_part(two_hands(bars=450))
        page = self.client.get(self.opened(data))
        self.assertContains(page, "this piece has 450 bars")
        self.assertEqual(
            (page.context["form"]["first_bar"].value(), page.context["form"]["last_bar"].value()), (1, 400)
        )
        self.make(data, first_bar="441", last_bar="450")
        self.assertEqual(len(Exercise.objects.latest("pk").part.read().bars), 10)

    def test_a_file_is_opened_by_a_job_and_the_page_waits_for_it(self) -> None:
        sent = self.send(write_part(beat()))
        self.assertContains(self.client.get(sent["Location"]), "Reading the file")
        polled = self.client.get(sent["Location"], headers={"hx-request": "true"})
        self.assertNotContains(polled, "<html")
        self.assertEqual(Job.objects.filter(kind="exercises.open").count(), 1)
        factories.work_all()
        self.assertEqual(
            self.client.get(sent["Location"], headers={"hx-request": "true"})["HX-Refresh"], "true"
        )
        lost = self.send(write_part(beat()))
        Job.objects.filter(state=Job.State.WAITING).update(state=Job.State.FAILED)
        self.assertContains(self.client.get(lost["Location"], follow=True), "could not be opened")

    def test_a_bundle_is_the_whole_exercise(self) -> None:
        source = factories.exercise(self.teacher, two_hands())
        set_ladder(self.teacher, source, propose_ladder(two_hands()))
        rules = RecordingRules(attempts=3, click_sound=ClickSound.WOOD)
        facts = ExerciseFacts(
            title="Sea Gate", instructions="Calmly.", tempo_bpm=Decimal(88), count_in_bars=2, level="secure"
        )
        set_rules(self.teacher, source, facts, rules, beat())
        source.refresh_from_db()
        bundle = self.client.get(f"/exercises/{source.pk}/bundle.zip").content
        names = zipfile.ZipFile(io.BytesIO(bundle)).namelist()
        self.assertEqual(names, ["exercise.json", "part.mid", "part.musicxml"])
        made = self.send(bundle, "gate.zip")
        actual = Exercise.objects.latest("pk")
        self.assertRedirects(made, f"/exercises/{actual.pk}/")
        for name in ("title", "instructions", "tempo_bpm", "rules", "ladder", "backing", "labels", "level"):
            self.assertEqual(getattr(actual, name), getattr(source, name), name)
        self.assertEqual(actual.part.read(), source.part.read())
        whole = json.loads(zipfile.ZipFile(io.BytesIO(bundle)).read("exercise.json"))
        wrong = [
            json.dumps(whole | values) for values in ({"tempo_bpm": "401"}, {"level": "none"}, {"title": " "})
        ]
        for manifest in (*wrong, "[]", "{}", '{"schema": "oido.exercise/1"}', "{"):
            buffer = io.BytesIO()
            with zipfile.ZipFile(buffer, "w") as archive:
                archive.writestr("exercise.json", manifest)
            self.assertContains(self.send(buffer.getvalue(), "x.zip"), "could not be read", status_code=422)

    def test_it_goes_out_in_every_format(self) -> None:
        for part in (two_hands(bars=2), beat(bars=2)):
            exercise = factories.exercise(self.teacher, part)
            url = f"/exercises/{exercise.pk}"
            self.assertEqual(
                read_musicxml(self.client.get(f"{url}/part.mxl").content).parts[0].part, part.named()
            )
            self.assertEqual(
                read_musicxml(self.client.get(f"{url}/part.musicxml").content).parts[0].part, part.named()
            )
            # What cannot be printed the printer only logs, and leaves out.
            with self.assertNoLogs("weasyprint", level="WARNING"):
                self.assertEqual(factories.made(self.client, f"{url}/sheet.pdf").content[:5], b"%PDF-")
            self.assertContains(self.client.get(f"{url}/notation/"), 'class="note"')
            for ending in ("wav", "ogg", "mp3"):
                samples, rate = soundfile.read(
                    io.BytesIO(factories.made(self.client, f"{url}/part.{ending}").content)
                )
                length = part.tempos.second_at(part.bars[-1].end_tick)
                with self.subTest(ending, kind=part.kind):
                    self.assertAlmostEqual(len(samples) / rate, length + TAIL_S, delta=1.5)
                    self.assertAlmostEqual(abs(samples).max(), PEAK, delta=0.12)
                    # It sounds where the part does: the first note at once, nothing behind the tail.
                    self.assertGreater(abs(samples[: rate // 2]).max(), 0.02)
                    self.assertLess(abs(samples[-200:]).max(), 0.01)

    def test_its_page_asks_the_same_number_of_times_however_often_it_was_given_and_changed(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())

        def given() -> None:
            students = [factories.student() for _ in range(2)]
            to = factories.school_class(teachers=[self.teacher], students=students)
            for one in students:
                factories.handed_in(one, factories.assignment(exercise, to))
            replace_part(exercise, two_hands())

        def asked(address: str) -> int:
            with CaptureQueriesContext(connection) as asked:
                self.assertEqual(self.client.get(address, **HTMX).status_code, 200)
            return len(asked)

        given()
        addresses = [f"/exercises/{exercise.pk}/", f"/exercises/{exercise.pk}/came-of-it/"]
        once = [asked(address) for address in addresses]
        for _ in range(3):
            given()
        self.assertEqual([asked(address) for address in addresses], once)

    def test_a_variation_remembers_what_it_came_from(self) -> None:
        source = factories.exercise(self.teacher, beat())
        made = self.client.post(f"/exercises/{source.pk}/variation/")
        variation = Exercise.objects.latest("pk")
        self.assertRedirects(made, f"/bench/{variation.pk}/")
        self.client.post(
            f"/bench/{variation.pk}/do/cell/",
            {"how": "turn", "tick": 240, "pitch": 36, "step": 120, "value": 120, "velocity": 99, "steps": 0},
        )
        self.assertContains(self.client.get(f"/bench/{variation.pk}/"), "is-new", count=1)
        self.client.post(f"/bench/{variation.pk}/keep/")
        page = self.client.get(f"/exercises/{variation.pk}/")
        self.assertContains(page, "one note is new, 0 notes are removed")
        self.assertContains(page, f'href="/exercises/{source.pk}/"')

    def test_rules_are_set_and_wrong_ones_refused(self) -> None:
        exercise = factories.exercise(self.teacher)
        page = f"/exercises/{exercise.pk}/"

        def said() -> dict[str, str]:
            return {rule.choice: rule.value for rule in self.client.get(page).context["rules"]}

        def set_(choice: str, **values: Any) -> Any:
            return self.client.post(f"{page}rules/{choice}/", values)

        usual = {
            "tempo": "♩ = 96", "range": "None", "click": "On the beats: tick, 80% volume", "sounds": "Any",
            "takes": "Any number", "handed-in": "One take.",
        }  # fmt: skip
        self.assertEqual({choice: said()[choice] for choice in usual}, usual)
        opened = self.client.get(f"{page}rules/tempo/", **HTMX)
        self.assertContains(opened, 'name="tempo_bpm"')
        self.assertNotContains(opened, 'name="attempts"')
        for choice, values, answer in (
            ("click", {"click_level": "300", "click_sound": "tick", "click_divides": "1"}, "less than"),
            ("handed-in", {"least_takes": "1", "handed_in_takes": "2"}, "More takes are"),
            ("questions", {"has_questions_only": "on"}, "needs at least one question"),
            ("tempo", {"tempo_bpm": ""}, "required"),
        ):  # fmt: skip
            with self.subTest(choice=choice):
                before = said()
                self.assertContains(set_(choice, **values), answer, status_code=422)
                self.assertEqual(said(), before)
        backing = SimpleUploadedFile("beat.mid", write_part(beat()))
        for choice, values in (
            ("takes", {"attempts": "5"}), ("tempo", {"tempo_bpm": "70"}), ("range", {"slower_percent": 10, "faster_percent": 0}),
            ("click", {"click_level": "80", "click_sound": "wood", "click_divides": "2"}),
            ("sounds", {"sounds": ["piano", "organ"]}),
            ("backing", {"backing_from": "", "backing_file": backing, "backing_level": 70}),
        ):  # fmt: skip
            self.assertRedirects(set_(choice, **values), f"{page}#rules", fetch_redirect_response=False)
        exercise.refresh_from_db()
        rules = exercise.recording_rules
        self.assertEqual((rules.attempts, rules.has_click, exercise.tempo_bpm), (5, False, 70))
        self.assertEqual(exercise.part.read().tempos.first_bpm, 70)
        self.assertEqual(exercise.backing["kind"], "drums")
        changed = {
            "tempo": "♩ = 70", "range": "Down to 63", "click": "None", "sounds": "piano, organ",
            "takes": "Up to five", "backing": "At 70% volume, in practice only",
        }  # fmt: skip
        self.assertEqual({choice: said()[choice] for choice in changed}, changed)
        # What one choice does not name is as it was.
        set_("name", title="Other")
        self.assertEqual(Exercise.objects.get(pk=exercise.pk).recording_rules, rules)
        self.assertTrue(Exercise.objects.get(pk=exercise.pk).backing)

    def test_who_does_not_own_it_reads_the_rules_and_opens_none(self) -> None:
        exercise = factories.exercise(self.teacher)
        other = factories.teacher()
        exercise.is_shared = True
        exercise.save()
        client = Client()
        client.force_login(other)
        self.assertNotContains(client.get(f"/exercises/{exercise.pk}/"), "choice-tempo")
        self.assertContains(client.get(f"/exercises/{exercise.pk}/"), "Any number")
        self.assertEqual(
            client.post(f"/exercises/{exercise.pk}/rules/tempo/", {"tempo_bpm": 70}).status_code, 404
        )

    def test_a_ladder_is_proposed_changed_and_kept(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        url = f"/exercises/{exercise.pk}/ladder/"
        page = self.client.get(url)

        def do(act: str, **values: Any) -> Any:
            nonlocal page
            sent = {"draft": page.context["draft"].to_text(), "act": act, **values}
            if page.context["open_at"] is not None:
                form = page.context["form"]
                sent |= {"open": page.context["open_at"]}
                sent |= {f"rung-{name}": form[name].value() for name in form.fields} | values
            answer = self.client.post(url, sent)
            if answer.status_code == 200:
                page = answer
            return answer

        def names() -> list[str]:
            return [said.rung.name for said in page.context["rungs"]]

        do("propose")
        proposed = names()
        self.assertGreater(len(proposed), 4)
        do("down-0")
        self.assertEqual(names()[:2], proposed[1::-1])
        do("remove-0")
        self.assertEqual(names()[:2], [proposed[0], proposed[2]])
        do("undo")
        do("undo")
        self.assertEqual(names(), proposed)
        do("redo")
        self.assertEqual(names()[:2], proposed[1::-1])
        do("double-0")
        self.assertEqual(names()[:2], [proposed[1]] * 2)
        # Bars drawn over become a rung, which is open; what is set there stands when something else is done.
        do("new", new_first="3", new_last="2")
        self.assertEqual((names()[-1], page.context["open_at"]), ("bars 2 to 3", len(names()) - 1))
        for field, value, told in (
            ("last_bar", "99", "bars 1 to 8"), ("needed_loops", "9", "loops"), ("hand", "banjo", "valid choice"), ("first_bar", "5", "or later"),
        ):  # fmt: skip
            self.assertContains(do("close", **{f"rung-{field}": value}), told, status_code=422)
        last = len(names()) - 1
        do(f"up-{last}", **{"rung-name": "the turn", "rung-hand": "left", "rung-tempo_percent": "70"})
        self.assertEqual(names()[-2], "the turn")
        self.assertFalse(Exercise.objects.get(pk=exercise.pk).ladder, "nothing is stored before it is saved")
        self.assertTrue(page.context["is_unsaved"])
        self.assertRedirects(do("save"), f"/exercises/{exercise.pk}/")
        rung = Exercise.objects.get(pk=exercise.pk).practice_ladder.rungs[-2]
        self.assertEqual(
            (rung.name, rung.hand, rung.tempo_percent, rung.first_bar, rung.last_bar),
            ("the turn", Hand.LEFT, 70, 2, 3),
        )
        self.assertContains(
            self.client.get(f"/exercises/{exercise.pk}/"), "bars 2 to 3, left hand, at 70 (70%)"
        )

    def test_rungs_know_lanes_by_the_kits_name_and_say_the_parts(self) -> None:
        part = beat()
        kick = next(n.pitch for n in part.notes if STANDARD_KIT.lane(n.pitch).name == "kick")
        named = replace(part, lanes=(*part.lanes, OwnLane(lane="kick", name="big drum")))
        exercise = factories.exercise(self.teacher, named)
        url = f"/exercises/{exercise.pk}/ladder/"
        page = self.client.post(url, {"act": "new", "draft": ""})
        self.assertIn(("kick", "big drum"), page.context["form"].fields["lanes"].choices)
        form = page.context["form"]
        sent = {f"rung-{name}": form[name].value() for name in form.fields} | {"rung-lanes": "kick"}
        done = self.client.post(
            url, {"act": "close", "open": "0", "draft": page.context["draft"].to_text(), **sent}
        )
        (rung,) = done.context["rungs"]
        self.assertIn("big drum", rung.place)
        bar = [
            k for k, n in enumerate(named.notes) if n.pitch == kick and n.onset_tick < named.bars[0].end_tick
        ]
        self.assertEqual(rung.notes, " ".join(map(str, bar)))

    def test_a_ladder_has_no_more_rungs_than_may_be_stored(self) -> None:
        rung = Rung(name="Bar 1", first_bar=1, last_bar=1)
        full = LadderDraft(ladder=Ladder(rungs=(rung,) * MAX_RUNGS))
        with self.assertRaisesMessage(PageProblem, f"up to {MAX_RUNGS} rungs"):
            full.with_new(beat(), 1, 1)
        self.assertEqual(len(full.without(0).with_new(beat(), 1, 1).ladder.rungs), MAX_RUNGS)

    def test_what_a_page_sends_of_a_ladder_may_be_anything(self) -> None:
        exercise = factories.exercise(self.teacher)
        url = f"/exercises/{exercise.pk}/ladder/"
        self.client.post(url, {"act": "new", "new_first": "1", "new_last": "2"})
        for draft in (
            "",
            "[]",
            "{",
            '{"rungs": 3, "earlier": [], "later": []}',
            '{"rungs":[{"name":1}],"earlier":[],"later":[]}',
            "[" * 5000,
        ):
            for act in ("up-0", "remove-7", "open--1", "nothing", "redo", "undo"):
                self.assertEqual(
                    self.client.post(url, {"act": act, "draft": draft, "open": "3"}).status_code, 200
                )

    def test_the_part_comes_out_as_it_went_in(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        data = self.client.get(f"/exercises/{exercise.pk}/part.mid").content
        self.assertEqual(read_part(data, kind=Kind.KEYBOARD), two_hands())
