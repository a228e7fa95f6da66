"""The report of a take: its rows, its notes one by one, how it is looked at."""

import json
import re
from unittest.mock import patch

from django.test import Client, TestCase

from ear.drawing.verdicts import EVERYTHING
from ear.formats.events import events_from_take
from ear.note_place import NotePlace
from ear.notes import Take as EarTake
from ear.notes import TakeNote
from ear.players.robot import Habits, play
from ear.practice.rules import RecordingRules
from ear.reader import ENGLISH
from oido.marking.hand_in import hand_in
from oido.people.conventions import conventions_of
from oido.reports.analysed_take import AnalysedTake
from oido.reports.costs import costliest
from oido.reports.note_card import note_card
from oido.reports.pdf import report_pdf
from oido.reports.report import BarFigures, _untimely
from oido.takes.services import receive_pass
from tests.ear.parts import beat, melody, two_hands
from tests.ear.test_controls import GESTURES
from tests.oido import factories

HTMX = {"headers": {"HX-Request": "true"}}


class ReportTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def handed_in(self, part, rules=None, **more):
        given = factories.assignment(factories.exercise(self.teacher, part), self.school_class)
        factories.allow(given, **(rules or {}))
        take = factories.take(self.student, given, **more)
        hand_in(self.student, take)
        return take

    def test_a_long_report_comes_in_pieces_that_are_the_whole(self) -> None:
        part = melody(bars=70)
        take = self.handed_in(part, habits=Habits(spread_ms=20))
        page = self.client.get(f"/takes/{take.pk}/").content.decode()
        drawn = re.findall(r'id="(t\d+)"', page)
        self.assertLess(len(drawn), len(part.notes))
        while following := re.search(r'hx-get="([^"]*/rows/[^"]*)"', page):
            page = self.client.get(following[1].replace("&amp;", "&"), **HTMX).content.decode()
            drawn += re.findall(r'id="(t\d+)"', page)
        self.assertEqual(drawn, [f"t{i}" for i in range(len(part.notes))])

    def test_every_note_has_its_card_with_both_positions(self) -> None:
        part = melody(bars=4, bpm=60.0)
        played = [
            TakeNote(onset_s=n.onset_tick / 480 + (0.15 if i == 9 else 0.0), length_s=0.85,
                     pitch=n.pitch + (1 if i == 2 else 0), velocity=n.velocity - 8)
            for i, n in enumerate(part.notes) if i != 10
        ]  # fmt: skip
        take = self.handed_in(part, events=events_from_take(EarTake.of(played)))
        url = f"/takes/{take.pk}/notes/"
        late = self.client.get(f"{url}t9/")
        self.assertContains(late, "<strong>late</strong>, +150 ms")
        for written_or_played in (
            "bar 3, beat 2<",
            "bar 3, beat 2.15",
            "+0.15 of a beat",
            ">64<",
            ">72<",
            ">0.85<",
            ">850<",
        ):
            self.assertContains(late, written_or_played)
        self.assertContains(late, 'data-note-wanted="t2"')
        self.assertContains(late, 'data-note-wanted="t10"')
        self.assertContains(late, "2 of 3")
        self.assertContains(self.client.get(f"{url}k9/"), 'data-note="t9"')
        self.assertContains(self.client.get(f"{url}t10/"), "missed")
        self.assertContains(self.client.get(f"{url}t2/"), "→")
        for name in ("t99", "k99", "x1", "t"):
            self.assertEqual(self.client.get(f"{url}{name}/").status_code, 404, name)
        faults = re.search(
            r'id="faults" type="application/json">(.*?)<',
            self.client.get(f"/takes/{take.pk}/").content.decode(),
        )
        self.assertEqual([name for name, _, _ in json.loads(faults[1])], ["t2", "t9", "t10"])

    def test_recorded_pedal_and_wheels_are_drawn_and_said_on_page_card_text_and_paper(self) -> None:
        part = melody()
        played = events_from_take(play(part, Habits(), seed=3))
        plain = self.handed_in(part, events=played)
        take = self.handed_in(part, events=[*played, *GESTURES])
        page = self.client.get(f"/takes/{take.pk}/")
        for words in (
            ">bend</text>",
            "modulation</text>",
            'class="played"',
            "<dt>Bar 5</dt>",
            "<dt>Bars 7 to 8</dt>",
        ):
            self.assertContains(page, words)
        self.assertContains(
            self.client.get(f"/takes/{take.pk}/notes/t16/"), "pitch bend up by as much as 50%"
        )
        self.assertContains(self.client.get(f"/takes/{take.pk}/words.txt"), "sustain pedal down", count=4)
        with patch("oido.reports.pdf.write_pdf", return_value=b"%PDF") as written:
            report_pdf(AnalysedTake(take), [], ENGLISH)
        self.assertIn("Modulation up to 40%", written.call_args.args[0])
        self.assertEqual(take.sheet.points, plain.sheet.points, "wheels do not affect the mark")
        self.assertNotContains(self.client.get(f"/takes/{plain.pk}/"), "Pedal and wheels")
        self.assertNotContains(self.client.get(f"/takes/{plain.pk}/notes/t16/"), "While this note sounded")

    def test_a_look_stands_in_the_address_and_what_is_wrong_in_it_is_as_usual(self) -> None:
        take = self.handed_in(two_hands(), habits=Habits(spread_ms=30, wrong_keys=0.2))
        url = f"/takes/{take.pk}/"
        left = self.client.get(f"{url}?of=left&rows=8", **HTMX)
        self.assertContains(left, "is-faded")
        self.assertNotContains(left, "<html")
        self.assertContains(left, "of=left")
        notes = take.part.read().notes
        clear = re.findall(r'id="t(\d+)" class="target is-\w+"', left.content.decode())
        self.assertEqual([i for i, n in enumerate(notes) if n.hand.value == "left"], [int(i) for i in clear])
        for wrong in ("?of=nose", "?rows=0", "?rows=x&show=?", "?show=splendid"):
            page = self.client.get(url + wrong)
            self.assertNotContains(page, "is-faded")
        self.assertEqual(self.client.get(f"{url}rows/?from=x").status_code, 404)

    def test_a_reading_that_is_hidden_hides_its_pieces(self) -> None:
        take = self.handed_in(melody())
        exercise = take.assignment.exercise
        exercise.rules = {**exercise.rules, "shows_reading": False}
        exercise.save()
        client = Client()
        client.force_login(self.student)
        for piece in ("rows/?from=0", "notes/t0/", "notation/"):
            self.assertEqual(client.get(f"/takes/{take.pk}/{piece}").status_code, 404, piece)
            self.assertEqual(self.client.get(f"/takes/{take.pk}/{piece}").status_code, 200, piece)

    def test_profiles_are_pictures_with_tables(self) -> None:
        take = self.handed_in(two_hands(), habits=Habits(spread_ms=20, left_hand_ms=95))
        page = self.client.get(f"/takes/{take.pk}/")
        for title in ("In the bar", "By hand", "Bar by bar"):
            self.assertContains(page, f"<figcaption>{title}</figcaption>", html=True)
        self.assertContains(page, 'class="spread late"')

    def moved(self, part, moves: dict[int, float], **rules):
        """A take on time but for these notes, moved by so many ms."""
        notes = [
            TakeNote(onset_s=1.0 * n.onset_tick / 480 + moves.get(i, 0.0) / 1000, length_s=0.85, pitch=n.pitch, velocity=n.velocity)
            for i, n in enumerate(part.notes)
        ]  # fmt: skip
        return AnalysedTake(self.handed_in(part, rules=rules, events=events_from_take(EarTake.of(notes))))

    def test_a_place_is_late_where_most_of_its_notes_are(self) -> None:
        analysed = self.moved(melody(bars=4, bpm=60.0), {5: 170, 6: 170, 9: 170, 10: 170, 11: 170})
        self.assertEqual(_untimely(analysed, "bar"), {3: "late"})

    def test_a_bar_is_measured_by_its_worst_note_to_either_side(self) -> None:
        figures = BarFigures(bar=1, deviations_ms=[12.0, -40.0, 30.0])
        self.assertEqual(figures.most_ms, -40.0)

    def test_the_costliest_notes_stand_ahead(self) -> None:
        analysed = self.moved(melody(bars=4, bpm=60.0), {5: 60, 9: 200, 11: 120})
        rows = costliest(analysed, conventions_of(self.teacher))["timing"]
        self.assertEqual([(row.bar, row.beat) for row in rows], [(3, 2), (3, 4), (2, 2)])

    def test_a_card_adds_up_the_common_lag_only_where_it_was_taken_off(self) -> None:
        part = melody(bars=4, bpm=60.0)
        speeding_up = {i: -25.0 * i for i in range(len(part.notes))}
        for has_click, judged_ms, forgiven_ms in ((True, -300.0, 0.0), (False, 0.0, None)):
            analysed = self.moved(part, speeding_up, has_click=has_click)
            card = note_card(analysed, NotePlace.read("t12"), EVERYTHING, ENGLISH)
            self.assertAlmostEqual(card.judged_ms, judged_ms, places=1)
            self.assertEqual(card.forgiven_ms, forgiven_ms)

    def test_a_layered_take_is_looked_at_pass_by_pass(self) -> None:
        part = melody(bars=4)
        exercise = factories.exercise(self.teacher, part)
        exercise.rules = RecordingRules(passes=3).to_json()
        exercise.save()
        given = factories.assignment(exercise, self.school_class)
        played = events_from_take(play(part, Habits(spread_ms=5), seed=1))
        take = factories.take(self.student, given, events=[e for e in played if e[0] < 4900])
        receive_pass(self.student, take, factories.new_pass([e for e in played if e[0] >= 4900]))
        hand_in(self.student, take)
        url = f"/takes/{take.pk}/"
        whole = self.client.get(url)
        self.assertContains(whole, 'name="pass"')
        self.assertEqual(sorted(set(whole.context["playing"]["passOf"])), [0, 1])
        for laid, own in ((1, 8), (2, 8)):
            page = self.client.get(f"{url}?pass={laid}", **HTMX).content.decode()
            self.assertEqual(len(re.findall(r'class="take is-\w+" ', page)), own, laid)
        self.assertNotContains(self.client.get(f"{url}?pass=3", **HTMX), "is-faded")

    def test_takes_handed_in_together_stand_beside_each_other(self) -> None:
        exercise = factories.exercise(self.teacher)
        exercise.rules = RecordingRules(handed_in_takes=2, least_takes=2).to_json()
        exercise.save()
        given = factories.assignment(exercise, self.school_class)
        takes = [factories.take(self.student, given) for _ in range(2)]
        factories.take(self.student, given)
        hand_in(self.student, *takes)
        page = self.client.get(f"/takes/{takes[0].pk}/")
        self.assertContains(page, f'href="/takes/{takes[0].pk}/beside/"')
        beside = self.client.get(f"/takes/{takes[0].pk}/beside/")
        self.assertContains(beside, "Takes 1 and 2")
        lone = self.handed_in(melody())
        self.assertRedirects(self.client.get(f"/takes/{lone.pk}/beside/"), f"/takes/{lone.pk}/")

    def test_empty_and_foreign_takes_have_reports_too(self) -> None:
        stray = [TakeNote(onset_s=0.37 * k, length_s=0.1, pitch=100 + k % 7, velocity=60) for k in range(12)]
        for part in (two_hands(), beat()):
            for played in ([], stray):
                take = self.handed_in(part, events=events_from_take(EarTake.of(played)))
                paths = ["", "notation/", "notes/t0/", "try/", "rows/?from=99"]
                if played:
                    paths.append("notes/k3/")
                for path in paths:
                    with self.subTest(kind=part.kind, played=len(played), path=path):
                        self.assertEqual(self.client.get(f"/takes/{take.pk}/{path}").status_code, 200)
                self.assertEqual(factories.made(self.client, f"/takes/{take.pk}/report.pdf").status_code, 200)
                for path in ("", "clear/"):
                    page = self.client.get(f"/assignments/{take.assignment_id}/{path}")
                    self.assertEqual(page.status_code, 200)
                self.assertContains(page, "Look at these one by one")
        self.assertEqual(self.client.get(f"/students/{self.student.pk}/progress/").status_code, 200)
