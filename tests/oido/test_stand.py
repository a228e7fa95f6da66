"""The Stand: tempo and key, passes, practice, choosing, corrected copies, takes from elsewhere, handing in."""

import io
import json
from datetime import timedelta
from threading import Barrier
from unittest.mock import patch

import mido
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from ear.editing.sections import set_section
from ear.editing.transpose import to_key
from ear.formats.events import events_from_take
from ear.formats.part_json import part_to_json
from ear.formats.smf_parts import read_take
from ear.formats.smf_writing import write_part, write_recording
from ear.players.robot import Habits, play
from ear.practice.ladder import Ladder, Rung
from ear.practice.proposals import propose_ladder
from ear.practice.rules import SoundChoice
from ear.recording.from_file import open_recording
from oido.common.permissions import NotAllowed
from oido.exercises.services import set_ladder
from oido.marking.hand_in import NotToBeHandedIn, TooLate, WrongNumber, hand_in
from oido.takes import choosing, copies
from oido.takes.at_stand import practised, save_settings
from oido.takes.judging import judged
from oido.takes.models import (
    CopyState,
    HandIn,
    PracticeDay,
    RungClimbed,
    StandSettings,
    Take,
    TakePass,
    Visit,
)
from oido.takes.services import NoMorePasses, receive_pass, receive_take, undo_pass
from tests.ear.parts import beat, melody
from tests.oido import factories

STEADY = Habits(spread_ms=4)
HTMX = {"headers": {"HX-Request": "true"}}


class StandTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)

    def setUp(self) -> None:
        self.client.force_login(self.student)
        self.stand = f"/stand/{self.given.pk}/"

    def send(self, path: str, body: object):
        return self.client.post(path, data=json.dumps(body), content_type="application/json")

    def page(self, path: str = "") -> str:
        return self.client.get(self.stand + path).content.decode()


class TempoAndKeyTest(StandTest):
    def test_a_take_is_measured_at_its_own_tempo_and_in_its_own_key(self) -> None:
        factories.allow(self.given, slower_percent=20, keys=(3,))
        part = to_key(melody(), fifths=3).part.at_tempo(80)
        played = events_from_take(play(part, STEADY, seed=1))
        new = factories.new_take(self.given, events=played, tempo_bpm="80.00", fifths=3)
        take = receive_take(self.student, self.given, new)
        take.refresh_from_db()
        facts = judged(take).facts
        self.assertEqual(facts.counts.matched, len(part.notes))
        self.assertEqual((facts.transposition, facts.target.bpm), (0, 80))
        hand_in(self.student, take)

    def test_practice_tempos_and_other_keys_are_kept_but_not_handed_in(self) -> None:
        factories.allow(self.given, slower_percent=10)
        for facts, words in (
            ({"tempo_bpm": "60"}, "at a practice tempo"),
            ({"fifths": 2}, "in the wrong key"),
        ):
            take = receive_take(self.student, self.given, factories.new_take(self.given, **facts))
            self.assertIn(words, self.page())
            self.assertNotIn(f"take={take.pk}", self.page())
            with self.assertRaises(NotToBeHandedIn):
                hand_in(self.student, take)

    def test_the_page_is_in_a_key_that_is_allowed(self) -> None:
        factories.allow(self.given, keys=(-3,), sounds=(SoundChoice.ORGAN,))
        stand = self.client.get(f"{self.stand}?key=-3").context["stand"]
        own = self.client.get(self.stand).context["stand"]
        self.assertEqual(stand["fifths"], -3)
        self.assertEqual({a[2] - b[2] for a, b in zip(stand["target"], own["target"], strict=True)}, {3})
        self.assertEqual(self.client.get(f"{self.stand}?key=4").context["stand"]["fifths"], 0)
        self.assertEqual(self.client.get(f"{self.stand}?key=x").context["stand"]["fifths"], 0)
        sounds = self.client.get(self.stand).context["sounds"]
        self.assertEqual([[p for p, _ in group] for _, group in sounds], [[19]])


class PassesTest(StandTest):
    def setUp(self) -> None:
        super().setUp()
        self.given = factories.assignment(factories.exercise(self.teacher, beat(bars=1)), self.school_class)
        self.stand = f"/stand/{self.given.pk}/"
        factories.allow(self.given, passes=3)
        events = events_from_take(play(beat(bars=1), Habits(), seed=1))
        self.lanes = {pitch: [e for e in events if e[2] == pitch] for pitch in (36, 38, 42)}
        self.take = factories.take(self.student, self.given, events=self.lanes[42])

    def matched(self) -> int:
        return judged(Take.objects.get(pk=self.take.pk)).facts.counts.matched

    def test_lane_after_lane_makes_the_take_and_each_pass_can_be_taken_back(self) -> None:
        counts = [self.matched()]
        for pitch in (38, 36):
            receive_pass(self.student, self.take, factories.new_pass(self.lanes[pitch]))
            counts.append(self.matched())
        self.assertEqual(counts, [8, 10, 11])
        with self.assertRaises(NoMorePasses):
            receive_pass(self.student, self.take, factories.new_pass())
        snare = TakePass.objects.get(number=2)
        undo_pass(self.student, snare, is_back=True)
        self.assertEqual(self.matched(), 9)
        self.assertIn("restore this pass", self.page())
        self.client.post(f"/takes/{self.take.pk}/passes/2/again/")
        self.assertEqual(self.matched(), 11)
        self.assertEqual(self.take.events, [list(e) for e in self.lanes[42]])
        notes = self.client.get(f"/takes/{self.take.pk}/notes.json").json()["take"]
        self.assertEqual(len(notes), 11)
        data = self.client.get(f"/takes/{self.take.pk}/take.mid").content
        self.assertEqual(len(read_take(data, part=beat(bars=1), count_in_bars=1).notes), 11)

    def test_bend_and_pedal_of_a_later_pass_are_heard_and_downloaded(self) -> None:
        controls = [(5.0, 0xE0, 0, 90), (9.0, 0xB0, 64, 127), (12.0, 0xD0, 44, 0)]
        receive_pass(self.student, self.take, factories.new_pass(controls))
        heard = self.client.get(f"/takes/{self.take.pk}/notes.json").json()
        self.assertEqual([c[1:] for c in heard["controls"]], [list(c[1:]) for c in controls])
        data = self.client.get(f"/takes/{self.take.pk}/take.mid").content
        self.assertEqual(len(open_recording(data).tracks), 1)
        self.assertEqual(self.matched(), 8)

    def test_replacing_takes_a_lane_out_of_its_bars_alone(self) -> None:
        body = {
            "id": "8c0a8b5e-8d55-4a83-a1f7-0c2f2b2a4d11", "source": "midi", "device": "", "latency_ms": 0,
            "recorded_at": "2026-11-20T18:42:00.000Z", "events": [], "way": "replace", "from_ms": 0, "until_ms": 1200,
            "lanes": ["hat"],
        }  # fmt: skip
        url = f"/takes/{self.take.pk}/passes/"
        for _ in range(2):
            self.assertContains(self.send(url, body), "data-is-measuring", status_code=201)
        self.client.get(f"{self.stand}tray/?waits")
        self.assertEqual((self.matched(), TakePass.objects.count()), (4, 1))
        for field, value in (
            ("way", "beside"),
            ("lanes", ["gong"]),
            ("until_ms", 0),
            ("events", [[1]]),
            ("pads", {"a": 1}),
        ):
            refused = self.send(url, {**body, field: value})
            self.assertEqual(refused.status_code, 422)
            self.assertIn(field, refused.json()["errors"])

    def test_nothing_is_laid_into_what_is_handed_in(self) -> None:
        hand_in(self.student, self.take)
        with self.assertRaises(NotAllowed):
            receive_pass(self.student, self.take, factories.new_pass())

    def test_a_kit_has_no_keys(self) -> None:
        body = {
            "id": "8c0a8b5e-8d55-4a83-a1f7-0c2f2b2a4d12", "part": self.given.exercise.part_id, "source": "midi", "fifths": 2,
            "latency_ms": 0, "recorded_at": "2026-11-20T18:42:00.000Z", "events": [[0, 0x90, 36, 90]],
        }  # fmt: skip
        self.assertEqual(self.send(f"{self.stand}takes/", body).status_code, 422)
        self.assertEqual(Take.objects.count(), 1)

    def test_pads_that_send_other_numbers_are_understood(self) -> None:
        moved = [(t, status, pitch + 20, v) for t, status, pitch, v in self.lanes[42]]
        take = receive_take(
            self.student, self.given, factories.new_take(self.given, events=moved, pads={62: 42})
        )
        self.assertEqual(judged(take).facts.counts.matched, 8)
        self.assertEqual(take.events[0][2], 62)


class PracticeTest(StandTest):
    def loop(self, *, rung: int | None = 1, bpm: float = 48, habits: Habits = STEADY, **more):
        part = Rung(name="x", first_bar=1, last_bar=2).part(melody()).at_tempo(min(bpm, 200))
        body = {
            "rung": rung, "first_bar": 1, "last_bar": 2, "hand": "", "lanes": [], "bpm": bpm, "fifths": 0, "latency_ms": 0,
            "source": "midi", "events": [list(e) for e in events_from_take(play(part, habits, seed=2))],
        }  # fmt: skip
        return self.send(f"{self.stand}loops/", {**body, **more})

    def setUp(self) -> None:
        super().setUp()
        rungs = (
            Rung(name="slowly", first_bar=1, last_bar=2, tempo_percent=50, needed_loops=2),
            Rung(name="in time", first_bar=1, last_bar=2),
        )
        set_ladder(self.teacher, self.given.exercise, Ladder(rungs=rungs))

    def test_rungs_open_as_they_are_met(self) -> None:
        self.assertEqual(self.loop(rung=2).status_code, 403)
        first = self.loop().json()
        self.assertEqual((first["isClean"], first["row"], first["isPassed"]), (True, 1, False))
        self.assertFalse(self.loop(events=[]).json()["isClean"])
        self.loop()
        last = self.loop().json()
        self.assertEqual((last["row"], last["isPassed"]), (2, True))
        self.assertIn("rung 2", last["ladder"])
        self.assertEqual(self.loop(rung=2, bpm=96).status_code, 200)
        self.assertIn("passed", self.page())

    def test_a_loop_that_is_too_slow_does_not_count(self) -> None:
        answer = self.loop(bpm=40).json()
        self.assertEqual((answer["isClean"], answer["inTempo"]), (True, False))
        self.assertEqual(RungClimbed.objects.get().points, [])

    def test_chosen_bars_are_judged_without_a_rung(self) -> None:
        self.assertTrue(self.loop(rung=None).json()["isClean"])
        poor = self.loop(rung=None, habits=Habits(misses=0.6, spread_ms=80)).json()
        self.assertFalse(poor["isClean"])
        self.assertTrue(poor["earNote"])
        self.assertFalse(RungClimbed.objects.exists())

    def pace(self, keys: list[int], *, rung: int | None = None, **more):
        events = [[100.0 * k, 0x90, key, 80] for k, key in enumerate(keys)]
        body = {
            "rung": rung, "first_bar": 1, "last_bar": 2, "hand": "", "lanes": [], "fifths": 0, "source": "midi",
            "events": events,
        }  # fmt: skip
        return self.send(f"{self.stand}own-pace/", {**body, **more})

    def test_at_ones_own_pace_a_rung_asks_for_once_without_a_wrong_key(self) -> None:
        rungs = (
            Rung(name="keys", first_bar=1, last_bar=2, own_pace=True, needed_loops=1),
            Rung(name="in time", first_bar=1, last_bar=2),
        )
        set_ladder(self.teacher, self.given.exercise, Ladder(rungs=rungs))
        self.assertIn("at your own pace", self.page())
        right = [n.pitch for n in Rung(name="x", first_bar=1, last_bar=2).part(melody()).notes]
        wrong = self.pace([*right[:5], 30, *right[5:]], rung=1).json()
        self.assertEqual((wrong["isComplete"], wrong["isClean"], wrong["loop"]), (True, False, [2, 2]))
        self.assertEqual(wrong["words"], "1 wrong key (bar 2: 1). Practise bar 2 next.")
        # A loop against the click is not what it asks for, and what was broken off is nothing.
        self.assertNotIn("isPassed", self.loop(rung=1, bpm=96).json())
        broken_off = self.pace(right[:3], rung=1).json()
        self.assertEqual(broken_off["words"], "You stopped in bar 1. No wrong key so far.")
        self.assertEqual(RungClimbed.objects.get().points, [87.5])
        self.assertEqual(self.pace(right, rung=2).status_code, 200)
        answer = self.pace(right, rung=1).json()
        self.assertEqual((answer["isClean"], answer["isPassed"]), (True, True))
        self.assertIn("rung 2", answer["ladder"])

    def test_bars_of_ones_own_choice_at_ones_own_pace(self) -> None:
        right = [n.pitch for n in Rung(name="x", first_bar=2, last_bar=2).part(melody()).notes]
        answer = self.pace([1, *right], first_bar=2).json()
        self.assertEqual(
            (answer["words"], answer["loop"]), ("1 wrong key (bar 2: 1). Practise bar 2 next.", [2, 2])
        )
        for wrong in ({"last_bar": 99}, {"rung": 7}, {"events": "x"}, {"source": "file"}):
            self.assertEqual(self.pace(right, **wrong).status_code, 422, wrong)
        factories.allow(self.given, is_by_ear=True)
        self.assertEqual(self.pace(right).status_code, 422)

    def test_days_and_minutes_of_practice_are_counted_for_the_student_alone(self) -> None:
        self.assertNotContains(self.client.get("/five-minutes/"), "<section")
        self.loop(rung=None)
        self.loop(rung=None)
        row = PracticeDay.objects.get()
        self.assertEqual(row.passages, [[self.given.pk, 1, 2]])
        self.assertAlmostEqual(row.seconds, 2 * 10.0)
        for days in (1, 2, 4):
            PracticeDay.objects.create(student=self.student, day=row.day - timedelta(days=days), seconds=90)
        page = self.client.get("/five-minutes/")
        self.assertContains(page, "You have practised for 1 minute today.")
        self.assertContains(page, "3 days in a row.")
        PracticeDay.objects.filter(day=row.day).delete()
        self.assertContains(self.client.get("/five-minutes/"), "2 days in a row.")
        self.client.force_login(self.teacher)
        self.assertEqual(self.client.get("/five-minutes/").status_code, 403)

    def test_five_minutes_are_planned_from_the_newest_take(self) -> None:
        take = factories.take(self.student, self.given, habits=Habits(spread_ms=4, wrong_keys=0.5))
        with self.assertNumQueries(11):
            page = self.client.get("/five-minutes/")
        self.assertContains(page, str(self.given.exercise))
        self.assertContains(page, f"/stand/{self.given.pk}/?from=")
        self.assertNotContains(page, "practised today")
        self.loop(rung=None)
        self.assertContains(self.client.get("/five-minutes/"), "practised today")
        factories.allow(self.given, shows_analysis=False)
        self.assertNotContains(self.client.get("/five-minutes/"), "?from=")
        factories.allow(self.given, shows_analysis=True)
        hand_in(self.student, take)
        self.assertNotContains(self.client.get("/five-minutes/"), "?from=")

    def test_wrong_bars_are_refused(self) -> None:
        for wrong in (
            {"rung": None, "last_bar": 99},
            {"rung": 7},
            {"bpm": 900},
            {"events": "x"},
            {"source": "file"},
        ):
            self.assertEqual(self.loop(**wrong).status_code, 422, wrong)

    def test_latency_comes_from_taps(self) -> None:
        beats = [600 * k for k in range(8)]
        answer = self.send("/stand/latency/", {"taps": [b + 21 for b in beats], "beats": beats}).json()
        self.assertEqual((answer["offsetMs"], answer["isSteady"]), (21, True))
        for wrong in ({"taps": [1], "beats": beats}, {"taps": "x", "beats": beats}, []):
            self.assertEqual(self.send("/stand/latency/", wrong).status_code, 422)


class ChoosingTest(StandTest):
    def test_a_latency_is_asked_for_only_where_the_newest_take_was_off_throughout(self) -> None:
        self.assertNotIn("data-calls-for-latency", self.page())
        factories.take(self.student, self.given, habits=Habits(lead_ms=60, spread_ms=4))
        self.assertIn("data-calls-for-latency", self.page())
        factories.take(self.student, self.given, habits=STEADY)
        self.assertNotIn("data-calls-for-latency", self.page())

    def test_name_star_delete_and_restore(self) -> None:
        take = factories.take(self.student, self.given)
        url = f"/takes/{take.pk}/"
        self.client.post(f"{url}name/", {"name": "the calm one"}, **HTMX)
        starred = self.client.post(f"{url}star/", **HTMX)
        self.assertContains(starred, "the calm one")
        self.assertContains(starred, "★")
        self.assertEqual(self.client.post(f"{url}name/", {"name": "x" * 61}, **HTMX).status_code, 422)
        gone = self.client.post(f"{url}throw-away/", **HTMX)
        self.assertContains(gone, "Restore")
        self.assertNotContains(gone, f'data-take="{take.pk}"')
        self.assertContains(self.client.post(f"{url}bring-back/", **HTMX), f'data-take="{take.pk}"')

    def test_deleted_takes_count_as_attempts_and_are_not_handed_in(self) -> None:
        factories.allow(self.given, attempts=1)
        take = factories.take(self.student, self.given)
        choosing.delete_take(self.student, take)
        self.assertIn("data-no-more-takes", self.page())
        with self.assertRaises(NotToBeHandedIn):
            hand_in(self.student, take)

    def test_the_analysis_is_hidden_where_the_exercise_hides_it_but_not_the_click(self) -> None:
        factories.allow(self.given, shows_analysis=False)
        faster = events_from_take(play(melody().at_tempo(112), STEADY, seed=4))
        take = factories.take(self.student, self.given, events=faster)
        page = self.page()
        self.assertNotIn("bar-state is-", page)
        self.assertIn("Played at 112 while the click was at 96", page)
        self.assertRedirects(self.client.get(f"/takes/{take.pk}/"), self.stand)
        self.assertEqual(self.client.get(f"{self.stand}compare/?a={take.pk}&b={take.pk}").status_code, 404)

    def test_two_takes_stand_row_under_row(self) -> None:
        a, b = (factories.take(self.student, self.given) for _ in range(2))
        page = self.client.get(f"{self.stand}compare/?a={a.pk}&b={b.pk}")
        self.assertContains(page, "Takes 1 and 2")
        self.assertEqual(
            page.content.decode().count("page-view page-keyboard"), 2 * len(page.context["rows"]) // 2
        )
        for wrong in ("", "?a=1&b=2", f"?a={a.pk}"):
            self.assertEqual(self.client.get(f"{self.stand}compare/{wrong}").status_code, 404)

    def test_the_part_is_downloaded_where_it_may_be_seen(self) -> None:
        for file, start in (("part.mid", b"MThd"), ("part.musicxml", b"<?xml")):
            response = self.client.get(f"{self.stand}{file}")
            self.assertTrue(response.content.startswith(start), file)
        self.assertContains(self.client.get(self.stand), f"{self.stand}part.mid")
        self.assertTrue(self.client.get(f"{self.stand}part.brf").content.isascii())
        self.assertEqual(self.client.get(f"{self.stand}bundle.zip").status_code, 404)
        sheet = factories.made(self.client, f"{self.stand}sheet.pdf")
        self.assertTrue(sheet.content.startswith(b"%PDF"))
        factories.allow(self.given, is_by_ear=True)
        for file in ("part.mid", "sheet.pdf", "part.mp3"):
            self.assertEqual(self.client.get(f"{self.stand}{file}").status_code, 404, file)
        self.assertNotContains(self.client.get(self.stand), f"{self.stand}part.mid")

    def test_what_to_practise_is_printed_as_soon_as_the_analysis_may_be_read(self) -> None:
        take = factories.take(self.student, self.given, habits=Habits(spread_ms=4, wrong_keys=0.5))
        url = f"/takes/{take.pk}/practice-sheet.pdf"
        self.assertTrue(factories.made(self.client, url).content.startswith(b"%PDF"))
        self.assertContains(self.client.get(self.stand), url)
        self.assertEqual(self.client.get(f"/takes/{take.pk}/report.pdf").status_code, 404)
        factories.allow(self.given, shows_analysis=False)
        self.assertEqual(self.client.get(url).status_code, 404)

    def test_a_take_and_its_copy_are_one_file(self) -> None:
        factories.allow(self.given, allows_corrected_copies=True)
        take = factories.take(self.student, self.given)
        url = f"/takes/{take.pk}/take-and-copy.mid"
        self.assertEqual(self.client.get(url).status_code, 404)
        self.assertNotContains(self.client.get(self.stand), url)
        copies.open_copy(self.student, take)
        self.assertContains(self.client.get(self.stand), url)
        file = mido.MidiFile(file=io.BytesIO(self.client.get(url).content))
        names = [track.name for track in file.tracks]
        self.assertEqual(names, ["", "take 1", "corrected copy"])
        strokes = [sum(m.type == "note_on" for m in track) for track in file.tracks]
        self.assertEqual(strokes[1], strokes[2])
        self.assertGreater(strokes[1], 0)

    def test_a_take_is_downloaded_as_sound(self) -> None:
        take = factories.take(self.student, self.given)
        response = factories.made(self.client, f"/takes/{take.pk}/take.ogg")
        self.assertEqual((response["Content-Type"], response.content[:4]), ("audio/ogg", b"OggS"))


class SectionsTest(StandTest):
    def test_click_backing_and_loops_follow_the_sections(self) -> None:
        part = set_section(melody(bars=4, bpm=60.0), bar=3, name="Run", bpm=120.0)
        exercise = factories.exercise(self.teacher, part)
        exercise.backing = part_to_json(melody(bars=4, bpm=60.0))
        exercise.ladder = propose_ladder(part).to_json()
        exercise.save()
        given = factories.assignment(exercise, self.school_class)
        page = self.client.get(f"/stand/{given.pk}/")
        data = page.context["stand"]
        self.assertEqual([bar["beats"] for bar in data["bars"][1:3]], [[4, 5, 6, 7], [8, 8.5, 9, 9.5]])
        onsets = sorted({note[0] for note in data["target"]})
        self.assertEqual(sorted({note[0] for note in data["backing"]["notes"]}), onsets)
        rung = next(c for c in page.context["climbs"] if c.rung.name == "Run")
        self.assertEqual(rung.bpm, 120 * rung.rung.tempo_percent / 100)
        take = factories.take(self.student, given, habits=Habits(spread_ms=2, tempo_ratio=0.9))
        hand_in(self.student, take)
        self.client.force_login(self.teacher)
        report = self.client.get(f"/takes/{take.pk}/")
        self.assertContains(report, "Section by section")
        self.assertContains(report, "played at 108, set at 120")


class CopyTest(StandTest):
    def setUp(self) -> None:
        super().setUp()
        factories.allow(self.given, allows_corrected_copies=True)
        self.take = factories.take(self.student, self.given, habits=Habits(spread_ms=30))
        self.url = f"/takes/{self.take.pk}/copy/"
        self.client.get(self.url)

    def do(self, tool: str, **values: object):
        return self.client.post(f"{self.url}do/{tool}/", values, **HTMX)

    def both(self):
        return copies.raw_and_copy(Take.objects.get(pk=self.take.pk))

    def test_quantising_is_looked_at_done_taken_back_and_listed(self) -> None:
        values = {"step": 480, "strength": 100, "swing": 1, "lengths": ""}
        self.assertContains(self.do("quantise", **values, look="1"), "would move")
        raw, same = self.both()
        self.assertEqual(raw, same)
        self.do("quantise", **values)
        raw, copy = self.both()
        self.assertTrue(all(n.onset_tick % 480 == 0 for n in copy.notes))
        page = self.client.get(self.url)
        self.assertRegex(page.content.decode(), r"[0-9]+ ms (earlier|later) \(0\.[0-9]+ of a beat\)")
        self.assertContains(page, "bar 1, beat 1")
        self.client.post(f"{self.url}undo/", **HTMX)
        self.assertEqual(*self.both())
        self.client.post(f"{self.url}redo/", **HTMX)
        self.take.refresh_from_db()
        before = judged(self.take).judgement.total
        hand_in(self.student, self.take)
        self.assertEqual(judged(Take.objects.get(pk=self.take.pk)).judgement.total, before)
        self.client.force_login(self.teacher)
        report = self.client.get(f"/takes/{self.take.pk}/")
        self.assertContains(report, "Corrected copy")
        self.assertContains(report, "of a beat)")

    def test_only_the_tools_for_correcting_are_there(self) -> None:
        for tool in ("steps", "key", "put", "join", "cell", "nonsense"):
            self.assertEqual(self.do(tool).status_code, 404, tool)
        self.assertEqual(self.do("quantise", step="x").status_code, 422)

    def test_notes_are_copied_bars_trimmed_and_doubles_cleaned_up(self) -> None:
        self.client.get(self.url)
        before = len(self.both()[1].notes)
        state = CopyState.objects.latest("number").pk
        self.do("paste", state=state, notes="0", tick=960 * 6, of="")
        raw, copy = self.both()
        self.assertEqual(len(copy.notes), before + 1)
        self.assertIn((960 * 6, raw.notes[0].pitch), [(n.onset_tick, n.pitch) for n in copy.notes])
        self.assertEqual(self.do("paste", state=999_999, notes="0", tick=0, of="").status_code, 422)
        self.assertEqual(self.do("bars", how="trim", first_bar=1, last_bar=1, times=1).status_code, 200)
        self.assertEqual(self.do("clean", mend=["double"]).status_code, 200)
        self.assertEqual(self.do("bars", how="only", first_bar=1, last_bar=1, times=1).status_code, 200)
        self.assertEqual(self.both()[1].last_bar, 1)

    def test_what_is_handed_in_is_not_corrected_any_more(self) -> None:
        hand_in(self.student, self.take)
        for answer in (self.do("delete"), self.client.post(f"{self.url}undo/", **HTMX)):
            self.assertContains(answer, "This take is handed in: its copy stays", status_code=422)
        with self.assertRaises(NotAllowed):
            copies.discard_copy(self.student, self.take)

    def test_a_copy_is_dropped(self) -> None:
        self.do("touch", note=0)
        self.do("delete")
        self.assertRedirects(self.client.post(f"{self.url}drop/"), self.stand)
        self.assertIsNone(copies.raw_and_copy(Take.objects.get(pk=self.take.pk)))


class ElsewhereTest(StandTest):
    def upload(self, data: bytes, name: str = "from-home.mid"):
        sent = self.client.post(f"{self.stand}elsewhere/", {"file": SimpleUploadedFile(name, data)})
        factories.work_all()
        return sent

    def recording(self, bpm: float, *, count_in: int) -> bytes:
        part = melody().at_tempo(bpm)
        return write_recording(
            [events_from_take(play(part, STEADY, seed=3))], part=part, count_in_bars=count_in
        )

    def test_a_file_becomes_a_take_at_its_own_tempo(self) -> None:
        factories.allow(self.given, slower_percent=20)
        opened = self.client.get(self.upload(self.recording(80, count_in=2)).url)
        self.assertContains(opened, "The file runs at 80, the exercise at 96")
        form = opened.context["form"]
        self.assertEqual((form.count_in_found, form.initial["tempo"]), (2, "file"))
        done = self.client.post(opened.request["PATH_INFO"], form.initial)
        self.assertRedirects(done, self.stand)
        take = Take.objects.get()
        facts = judged(take).facts
        self.assertEqual((take.source, float(take.tempo_bpm)), ("file", 80))
        self.assertEqual(facts.counts.matched, len(melody().notes))
        self.assertLess(abs(facts.figures.bias_ms), 10)
        self.assertEqual(bytes(take.file.data)[:4], b"MThd")
        hand_in(self.student, take)

    def test_a_file_sent_twice_at_once_is_one_take(self) -> None:
        opened = self.client.get(self.upload(self.recording(96, count_in=2)).url)
        with patch("oido.stand.views.elsewhere.drop_upload"):
            for _ in range(2):
                self.client.post(opened.request["PATH_INFO"], opened.context["form"].initial)
        self.assertEqual(Take.objects.count(), 1)

    def test_played_to_the_exercises_click_it_is_told_as_another_tempo(self) -> None:
        opened = self.upload(self.recording(80, count_in=0))
        self.client.post(opened.url, {"tracks": "1-0", "count_in": 0, "tempo": "exercise"})
        self.assertIn("Played at 80 while the click was at 96", self.page())

    def test_wrong_files_and_answers_are_refused(self) -> None:
        self.assertEqual(self.upload(b"RIFF").status_code, 422)
        empty = b"MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x04\x00\xff\x2f\x00"
        for data, said in ((b"MThd", "could not be read"), (empty, "no note in this file")):
            self.assertContains(self.client.get(self.upload(data).url, follow=True), said)
        url = self.upload(write_part(melody())).url
        for wrong in (
            {},
            {"tracks": "9-9", "count_in": 0, "tempo": "exercise"},
            {"tracks": "1-0", "count_in": 44},
        ):
            self.assertEqual(self.client.post(url, wrong).status_code, 422)
        self.client.force_login(factories.student())
        self.assertEqual(self.client.get(url).status_code, 404)


class HandInTest(StandTest):
    def hand_in(self, *takes: Take, **values: object):
        return self.client.post(f"{self.stand}hand-in/", {"takes": [str(t.pk) for t in takes], **values})

    def test_what_is_far_from_the_best_or_something_else_is_asked_about_once(self) -> None:
        best = factories.take(self.student, self.given, habits=STEADY)
        poor = factories.take(self.student, self.given, habits=Habits(wrong_keys=0.5, spread_ms=60))
        noise = [[40.0 * k, 0x90 if k % 2 == 0 else 0x80, 90 - k, 70] for k in range(40)]
        foreign = factories.take(self.student, self.given, events=noise)
        page = self.client.get(f"{self.stand}hand-in/?take={best.pk}")
        self.assertContains(page, "Every bar went well.")
        self.assertContains(page, "Hear them in turn")
        asked = self.hand_in(poor)
        self.assertContains(asked, "Take 1 is clearly better than take 2.", status_code=422)
        self.assertContains(
            self.hand_in(foreign), "Take 3 does not sound like this exercise.", status_code=422
        )
        self.assertFalse(HandIn.objects.exists())
        self.assertEqual(self.hand_in(poor, even_so="1").status_code, 302)
        self.assertEqual(self.hand_in(best).status_code, 302)
        # What the exercise keeps back is not told here either.
        factories.allow(self.given, shows_analysis=False)
        self.assertEqual(self.hand_in(poor).status_code, 302)

    def test_answers_note_and_receipt(self) -> None:
        factories.allow(self.given, questions=("What was hard?",))
        take = factories.take(self.student, self.given)
        self.assertContains(self.hand_in(take), "Your teacher asks for this", status_code=422)
        self.assertFalse(HandIn.objects.exists())
        done = self.hand_in(take, **{"answer-0": "The leap.", "note": "At home."})
        receipt = self.client.get(done.url)
        said = HandIn.objects.get()
        for words in ("The leap.", "At home.", str(said.receipt), "What was hard?"):
            self.assertContains(receipt, words)
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "The leap.")

    def test_it_is_changed_until_it_is_due(self) -> None:
        first, second = (factories.take(self.student, self.given) for _ in range(2))
        self.hand_in(first)
        receipt = HandIn.objects.get().receipt
        self.hand_in(second, note="This one.")
        self.assertEqual([t.is_handed_in for t in Take.objects.order_by("number")], [False, True])
        self.assertEqual(HandIn.objects.get().receipt, receipt)
        self.given.due_at = timezone.now() - timedelta(minutes=1)
        self.given.save()
        self.assertContains(self.hand_in(first), "The due date has passed", status_code=422)
        with self.assertRaises(TooLate):
            hand_in(self.student, Take.objects.get(number=1))

    def test_late_is_better_than_never(self) -> None:
        self.given.due_at = timezone.now() - timedelta(days=1)
        self.given.save()
        self.assertContains(
            self.client.get(self.hand_in(factories.take(self.student, self.given)).url), "late"
        )

    def test_as_many_takes_as_the_exercise_asks(self) -> None:
        factories.allow(self.given, least_takes=2, handed_in_takes=2)
        address = f"/stand/{self.given.pk}/hand-in/?take="
        first = factories.take(self.student, self.given)
        self.assertNotContains(self.client.get(self.stand), address)
        second = factories.take(self.student, self.given)
        self.assertContains(self.client.get(self.stand), address)
        self.assertContains(self.hand_in(first), "Choose 2 takes.", status_code=422)
        with self.assertRaises(WrongNumber):
            hand_in(self.student, first)
        self.hand_in(first, second)
        self.assertEqual(Take.objects.filter(handed_in_at__isnull=False).count(), 2)

    def test_without_a_click_the_players_own_pulse_counts(self) -> None:
        factories.allow(self.given, has_click=False)
        slower = events_from_take(play(melody().at_tempo(70), STEADY, seed=4))
        take = factories.take(self.student, self.given, events=slower)
        self.assertFalse(take.asks_click)
        self.assertNotIn("while the click was", self.page())
        flow = judged(take).judgement.criterion("flow").score
        self.assertGreater(flow, 95)


class AtOnceTest(TransactionTestCase):
    """Two windows of one student, on an empty record."""

    def test_two_windows_that_send_at_once_lose_nothing(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[teacher], students=[student])
        given = factories.assignment(factories.exercise(teacher), school_class)
        gate, problems = Barrier(2), []

        def send(window: int) -> None:
            try:
                gate.wait()
                practised(student, given, bars=(window, window), seconds=10)
                save_settings(student, {f"tempo-{window}": (window, 90)})
                factories.take(student, given)
                save_settings(student, {"speaks": (window, "beats")})
                practised(student, given, bars=(window, window), seconds=5)
            except Exception as problem:
                problems.append(problem)
            finally:
                connection.close()

        threads = [factories.thread(target=send, args=(window,)) for window in (1, 2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(problems, [])
        today, visit = PracticeDay.objects.get(), Visit.objects.get()
        self.assertEqual((today.seconds, sorted(today.passages)), (30, [[given.pk, 1, 1], [given.pk, 2, 2]]))
        self.assertEqual(visit.loops, 4)
        self.assertEqual(set(StandSettings.objects.get().kept), {"tempo-1", "tempo-2", "speaks"})
