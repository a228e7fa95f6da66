"""The Stand on every source: checked, practised, recorded in passes, corrected, handed in."""

import re

from playwright.sync_api import Page, Route, expect

from ear.conventions import PLAIN
from ear.drawing.in_words import describe_moment
from ear.editing.quantise import GRID_STEPS
from ear.formats.events import events_from_take
from ear.formats.plain_writing import plain_lines
from ear.formats.smf_writing import write_recording
from ear.labels.typing_keys import reach
from ear.notation.moments import moments
from ear.notes import Hand, Part
from ear.players.robot import Habits, play
from ear.practice.ladder import Ladder, Rung
from ear.reader import ENGLISH
from oido.exercises.services import set_ladder
from oido.takes.copies import raw_and_copy
from oido.takes.judging import judged
from oido.takes.models import RungClimbed, Take, TakePass
from tests.browser.base import BrowserTest
from tests.browser.clocks import IDEAL_CLOCK
from tests.ear.parts import beat, melody, two_hands
from tests.oido import factories

STEADY = Habits(spread_ms=4)
PERFORM_AT = """
([attribute, events]) => {
  const stand = document.querySelector("[data-stand]");
  new MutationObserver(() => {
    const zero = Number(stand.getAttribute(attribute));
    if (!Number.isFinite(zero) || !zero) return;
    for (const [timeMs, ...bytes] of events) {
      const timeStamp = zero + timeMs;
      setTimeout(() => window.midiStandIn.send(bytes, timeStamp), timeStamp - performance.now());
    }
  }).observe(stand, { attributeFilter: [attribute] });
}
"""
"""Plays events on the stand-in each time the Stand names a downbeat."""


TAP_TEMPO = """
(apart) => {
  for (let k = 0; k < 4; k++) {
    const tap = new MouseEvent("click", { bubbles: true });
    Object.defineProperty(tap, "timeStamp", { value: 1000 + k * apart });
    document.querySelector("[data-tempo-tap]").dispatchEvent(tap);
  }
}
"""
"""Four taps so many ms apart by their own time stamps: a busy machine taps unevenly."""


class StandTest(BrowserTest):
    def new_page(self, **options) -> Page:
        """By a clock that never stumbles: what is asked here is not this machine's sound."""
        page = super().new_page(**options)
        page.add_init_script(IDEAL_CLOCK)
        return page

    def open_stand(self, part: Part, *, source: str = "midi", page: Page | None = None, **rules) -> Page:
        page = page or self.page
        self.student, self.teacher = factories.student(), factories.teacher()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.given = factories.assignment(factories.exercise(self.teacher, part), school_class)
        factories.allow(self.given, **rules)
        self.sign_in(self.student.username, page)
        self.visit(f"/stand/{self.given.pk}/", page)
        page.locator("[data-stand][data-ready=yes]").wait_for()
        if source != "midi":
            page.get_by_label("Play on").select_option(source)
            page.keyboard.press("Escape")
        return page

    def eventually(self, page: Page, condition: str) -> None:
        """Wait until something is so; the page's own policy allows no text to be run as a script by it."""
        for _ in range(300):
            if page.evaluate(condition):
                return
            page.wait_for_timeout(100)
        self.fail(condition)

    def set_up(self, page: Page) -> None:
        page.get_by_role("button", name="Set up").click()

    def played(self, part: Part, habits: Habits = STEADY) -> list[list[float]]:
        return [list(event) for event in events_from_take(play(part, habits, seed=4))]

    def stored(self, page: Page, count: int = 1) -> list[Take]:
        expect(page.locator("#takes [data-take]")).to_have_count(count)
        return list(Take.objects.order_by("number"))


class SourcesTest(StandTest):
    def test_several_devices_are_told_apart_and_the_unused_are_silent(self) -> None:
        page = self.open_stand(melody(bars=1))
        answer = page.locator("[data-answer]")
        page.evaluate("midiStandIn.plug('2', 'Stand-in keys')")
        expect(answer).to_contain_text("Stand-in keys, Stand-in keys (2)")
        page.evaluate("midiStandIn.send([0x90, 60, 50], performance.now(), '2')")
        expect(answer).to_have_text("Stand-in keys (2) answers: C4, 50")
        page.evaluate("midiStandIn.send([0x90, 62, 90])")
        expect(answer).to_have_text("Stand-in keys (2) answers: C4, 50")
        page.get_by_label("which device").select_option("1")
        page.evaluate("midiStandIn.send([0x90, 62, 90])")
        expect(answer).to_have_text("Stand-in keys answers: D4, 90")
        page.evaluate("midiStandIn.unplug('1')")
        expect(answer).to_contain_text("Stand-in keys was unplugged")
        expect(page.locator("[data-device-choice]")).to_be_hidden()

    def test_when_nothing_arrives_it_says_what_to_do(self) -> None:
        page = self.open_stand(melody(bars=1))
        expect(page.locator("[data-no-answer]")).to_contain_text("Is the instrument switched on")
        page.evaluate("midiStandIn.send([0x90, 62, 90])")
        expect(page.locator("[data-no-answer]")).to_be_hidden()

    def test_typing_keys_have_octaves_accents_pedal_and_say_when_they_sleep(self) -> None:
        page = self.open_stand(melody(bars=1, bpm=160), source="typing")
        answer, keys = page.locator("[data-answer]"), page.locator("[data-instrument-state]")
        for press, said in (("KeyA", "C4, 80"), ("KeyS", "D4, 80"), ("KeyQ", "C♯4, 80")):
            page.keyboard.press(press)
            expect(answer).to_have_text(f"typing keys answers: {said}")
        page.keyboard.press("Digit2")
        expect(keys).to_contain_text("home note C5")
        page.keyboard.press("KeyA")
        expect(answer).to_contain_text("C5, 80")
        page.keyboard.press("Digit1")
        page.keyboard.press("Digit4")
        page.keyboard.press("Digit5")
        expect(keys).to_contain_text("velocity 72")
        page.keyboard.down("BracketLeft")
        page.keyboard.press("KeyA")
        page.keyboard.up("BracketLeft")
        expect(answer).to_contain_text("D4, 102")
        page.locator("[data-tempo]").focus()
        expect(keys).to_contain_text("Typing keys are off")
        page.keyboard.press("Escape")
        expect(keys).to_be_empty()
        page.keyboard.press("Enter")
        expect(page.locator("[data-state]")).to_contain_text("Recording")
        for key in ("Quote", "KeyA", "Digit9", "Digit0"):
            page.keyboard.down(key)
        page.keyboard.press("KeyD")
        for key in ("KeyA", "Quote", "Digit9", "Digit0"):
            page.keyboard.up(key)
        (take,) = self.stored(page)
        self.assertEqual(
            [event[1:] for event in take.events],
            [
                [0xB0, 64, 127], [0x90, 62, 72], [0xE0, 127, 127], [0xB0, 1, 100], [0x90, 65, 72], [0x80, 65, 64],
                [0x80, 62, 64], [0xB0, 64, 0], [0xE0, 0, 64], [0xB0, 1, 0],
            ],
        )  # fmt: skip
        self.assertEqual(len(take.read().pedal), 1)

    def test_what_typing_keys_reach_is_said_and_a_layout_for_two_hands_reaches_all(self) -> None:
        part = two_hands(bars=4)
        page = self.open_stand(part, source="typing")
        actual = reach(part)
        assert actual is not None
        said = page.locator("[data-reach]")
        expect(said).to_contain_text(f"Typing keys reach {actual.as_they_lie} of these {actual.notes} notes.")
        page.get_by_role("button", name="Layout for two hands").click()
        expect(said).to_be_empty()
        page.keyboard.press("KeyZ")
        lowest = min(n.pitch for n in part.notes if n.hand is Hand.LEFT)
        expect(page.locator("[data-answer]")).to_contain_text(PLAIN.pitch(lowest))
        page.keyboard.press("Digit2")
        expect(said).to_contain_text("Layout for two hands")
        page.get_by_text("left hand").click()
        expect(said).not_to_contain_text(f"of these {actual.notes} notes")

    def test_all_devices_at_once_and_sound_on_the_players_own(self) -> None:
        page = self.open_stand(melody(bars=1, bpm=200))
        page.evaluate("midiStandIn.plug('2', 'Pedal board')")
        page.get_by_label("which device").select_option("all of them at once")
        for device, note in (("1", 60), ("2", 62)):
            page.evaluate(
                "([id, note]) => midiStandIn.send([0x90, note, 50], performance.now(), id)", [device, note]
            )
            expect(page.locator("[data-answer]")).to_contain_text(
                f"Pedal board answers: {PLAIN.pitch(note)}, 50"
            )
        page.get_by_role("button", name="Set up").click()
        place = page.get_by_label("Sounds on")
        place.focus()
        expect(place.locator("option")).to_have_count(2)
        place.select_option("Stand-in keys")
        page.get_by_role("button", name="Listen").click()
        expect(page.locator("[data-hear-part]")).to_have_text("Stop")
        # It is over by itself: then all has been sent.
        expect(page.get_by_role("button", name="Listen")).to_be_visible()
        notes = page.evaluate("midiStandIn.sent.filter((one) => one[1] === 0x90).map((one) => one[2])")
        self.assertEqual(notes, [n.pitch for n in melody(bars=1).notes])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 1")
        clicks = page.evaluate("midiStandIn.sent.filter((one) => one[1] === 0x99).map((one) => one[2])")
        self.assertEqual(clicks[:4], [76, 77, 77, 77])

    def test_three_keys_at_once_are_tested(self) -> None:
        page = self.open_stand(melody(bars=1), source="typing")
        page.get_by_role("button", name="Set up").click()
        state = page.locator("[data-three-keys-state]")
        for keys, said in (
            (("KeyA", "KeyD", "KeyG"), "All three keys worked"),
            (("KeyA", "KeyD"), "G did not work"),
        ):
            page.get_by_role("button", name="Test three keys at once").click()
            expect(state).to_contain_text("Hold A + D + G")
            for key in keys:
                page.keyboard.down(key)
            for key in keys:
                page.keyboard.up(key)
            expect(state).to_contain_text(said)

    def test_on_screen_keys_are_strong_at_their_front(self) -> None:
        page = self.open_stand(melody(bars=1), source="screen")
        key, answer = page.locator("[data-pitch='60']"), page.locator("[data-answer]")
        strengths = []
        for y in (15, 96):
            said = answer.inner_text()
            key.click(position={"x": 8, "y": y})
            expect(answer).not_to_have_text(said)
            expect(answer).to_contain_text("answers: C4")
            strengths.append(int(answer.inner_text().split(", ")[1]))
        self.assertLess(strengths[0] + 40, strengths[1])
        page.get_by_role("button", name="Set up").click()
        page.get_by_text("always", exact=True).click()
        page.get_by_label("fixed velocity").fill("66")
        key.click()
        expect(answer).to_contain_text("C4, 66")

    def test_pads_are_told_by_hitting_each_once(self) -> None:
        page = self.open_stand(beat(bars=1, bpm=200))
        page.get_by_role("button", name="Set up").click()
        page.get_by_role("button", name="Set up pads").click()
        state = page.locator("[data-pads-state]")
        for lane, number in (("hat", 11), ("snare", 12), ("kick", 13)):
            expect(state).to_contain_text(f"Hit your {lane}.")
            page.evaluate(f"midiStandIn.send([0x99, {number}, 90])")
        expect(state).to_contain_text("All pads are set up.")
        moved = {42: 11, 38: 12, 36: 13}
        sent = [[t, s, moved[p], v] for t, s, p, v in self.played(beat(bars=1, bpm=200))]
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", sent])
        page.get_by_role("button", name="Record").click()
        (take,) = self.stored(page)
        self.assertEqual({e[2] for e in take.events}, {11, 12, 13})
        self.assertEqual(judged(take).facts.counts.matched, 11)

    def test_the_robot_player_plays_what_is_asked(self) -> None:
        with self.settings(IS_DEMO=True):
            page = self.open_stand(melody(bars=2, bpm=160), source="robot")
            page.get_by_role("button", name="Record").click()
            (take,) = self.stored(page)
        self.assertEqual(judged(take).facts.counts.matched, 8)


IN_VIEW = """
() => Object.fromEntries(["[data-record]", "[data-instrument]", ".music .row-of-bars"].map((what) => {
  const { top, bottom, left, right } = document.querySelector(what).getBoundingClientRect();
  const covered = what.startsWith(".music") ? document.querySelector(".dock").getBoundingClientRect().top : innerHeight;
  return [what, top >= -1 && bottom <= covered + 1 && left >= -1 && right <= innerWidth + 1];
}))
"""
"""Is all of it seen: the button, the keys, and the first row of the music above what one plays with?"""


class FirstMinuteTest(StandTest):
    def test_music_record_and_keys_are_in_one_view_on_every_screen(self) -> None:
        page = self.open_stand(
            two_hands(bars=8), page=self.new_page(midi=False, has_touch=True, is_mobile=True)
        )
        for width, height in ((1280, 800), (1024, 768), (844, 390), (390, 844)):
            page.set_viewport_size({"width": width, "height": height})
            page.reload()
            page.locator("[data-stand][data-ready=yes]").wait_for()
            with self.subTest(f"{width} x {height}"):
                expect(page.get_by_label("Play on")).to_have_value("screen")
                self.assertEqual(set(page.evaluate(IN_VIEW).values()), {True}, page.evaluate(IN_VIEW))
                self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
        for width in (320, 390):
            page.set_viewport_size({"width": width, "height": 800})
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
            self.eventually(
                page,
                "[...document.querySelectorAll('.dock .white')].every((key) => key.getBoundingClientRect().width >= 34)",
            )

    def test_turning_the_device_draws_the_music_anew(self) -> None:
        page = self.open_stand(
            two_hands(bars=8), page=self.new_page(midi=False, has_touch=True, is_mobile=True)
        )
        first_row = page.locator(".music .row-of-bars").first.locator("[data-bar]")
        for width, height, most_bars in ((390, 844, 2), (844, 390, 8)):
            page.set_viewport_size({"width": width, "height": height})
            asked = "< 400" if width < height else "> 600"
            self.eventually(page, f"document.querySelector('.music svg').viewBox.baseVal.width {asked}")
            self.assertLessEqual(first_row.count(), most_bars)

    def test_any_letter_starts_the_typing_keys_and_a_drawn_key_the_screen(self) -> None:
        page = self.open_stand(melody(bars=1), page=self.new_page(midi=False))
        source, answer = page.get_by_label("Play on"), page.locator("[data-answer]")
        expect(source).to_have_value("typing")
        page.locator("[data-pitch='60']").click(position={"x": 8, "y": 60})
        expect(source).to_have_value("screen")
        expect(answer).to_contain_text("on-screen keys answers: C4")
        page.keyboard.press("KeyA")
        expect(source).to_have_value("typing")
        expect(answer).to_contain_text("typing keys answers: C4")
        expect(page.locator("[data-latency-call]")).to_be_empty()

    def test_a_source_chosen_before_the_scripts_have_run_is_kept(self) -> None:
        page, held = self.open_stand(melody(bars=1), page=self.new_page(midi=False)), []
        page.route("**/stand/js/stand*.js", lambda route: held.append(route))
        page.goto(page.url, wait_until="commit")
        page.get_by_label("Play on").select_option("screen")
        held[0].continue_()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(page.get_by_label("Play on")).to_have_value("screen")
        expect(page.locator("[data-pitch]").first).to_be_visible()

    def test_letters_are_those_of_the_chosen_keyboard(self) -> None:
        page = self.open_stand(melody(bars=1), source="typing")
        self.set_up(page)
        key = page.locator(".dock [data-pitch='60']")
        expect(key).to_contain_text("A")
        page.locator("[data-keyboard]").select_option("fr")
        expect(key).to_contain_text("Q")
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(key).to_contain_text("Q")

    def test_from_signing_in_to_a_take_that_is_handed_in_are_five_presses(self) -> None:
        part = melody(bars=1, bpm=200)
        page = self.open_stand(part)
        self.visit("/", page)
        page.get_by_role("link", name="Open the Stand").click()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        # The drawing takes room above the takes: these come with it, so that nobody presses what is moving away.
        page.evaluate(
            """() => new MutationObserver(() => {
              const [take, drawing] = ["#takes [data-on-music]", "[data-part-alone]"].map((one) => document.querySelector(one));
              if (take && !drawing) document.documentElement.dataset.hasMoved = "";
            }).observe(document.body, { childList: true, subtree: true })"""
        )
        page.get_by_role("button", name="Record").click()
        self.stored(page)
        expect(page.locator("[data-part-alone]")).to_be_visible()
        expect(page.locator("html[data-has-moved]")).to_have_count(0)
        page.get_by_role("link", name="Hand in take 1").click()
        page.get_by_role("button", name="Hand in").click()
        expect(page.get_by_role("status").first).to_contain_text("Take 1 has been handed in.")

    def test_at_ones_own_pace_the_music_waits_and_says_what_to_loop(self) -> None:
        part = melody(bars=2, bpm=100)
        page = self.open_stand(part)
        page.get_by_role("button", name="At your own pace").click()
        due = page.locator(".music-now .target.is-due")
        expect(due).to_have_count(1)

        def press(pitch: int) -> None:
            page.evaluate("(p) => { midiStandIn.send([0x90, p, 80]); }", pitch)

        def lift(pitch: int) -> None:
            page.evaluate("(p) => { midiStandIn.send([0x80, p, 64]); }", pitch)

        for k, note in enumerate(part.notes):
            expect(page.locator(f".music-now [data-target='{k}'].is-due")).to_have_count(1)
            if k == 4:
                press(30)
                expect(page.locator("[data-mistaken]")).to_have_text("Not F♯1.")
                lift(30)
                expect(page.locator("[data-mistaken]")).to_be_empty()
            press(note.pitch)
            lift(note.pitch)
        news = page.locator("[data-loop-news]")
        expect(news).to_contain_text("1 wrong key (bar 2: 1). Practise bar 2 next.")
        news.get_by_role("button", name="Practise bar 2").click()
        expect(page.locator("[data-stand]")).to_have_attribute("data-doing", "practising")
        self.assertEqual(page.get_by_label("First bar").input_value(), "2")


class LatencyTest(StandTest):
    TAP = """
    (late) => {
      const start = AudioBufferSourceNode.prototype.start;
      let k = 0;
      AudioBufferSourceNode.prototype.start = function (when) {
        const at = 1000 * (when + 0.25) + late + (k % 3 - 1) * 2;
        if (k++ >= 4) setTimeout(() => midiStandIn.send([0x90, 60, 80], at), at - performance.now());
        return start.call(this, when);
      };
    }
    """
    """A player who taps so late with each click, evenly within 2 ms, by the ideal clock."""

    def test_tapping_along_gives_what_is_taken_off_takes(self) -> None:
        page = self.open_stand(melody(bars=1, bpm=200))
        page.get_by_role("button", name="Set up").click()
        page.evaluate(self.TAP, 35)
        page.get_by_role("button", name="Tap along").click()
        expect(page.locator("[data-latency-state]")).to_contain_text("allow for this delay from now on")
        expect(page.locator("[data-latency-told]")).to_contain_text("measured")
        kept = page.evaluate(
            """(user) => JSON.parse(localStorage[`oido/${user}`])[`latency@${localStorage["oido-computer"]}`][1]""",
            str(self.student.pk),
        )
        measured = next(iter(kept.values()))["offsetMs"]
        self.assertAlmostEqual(measured, 35, delta=2)
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.evaluate("midiStandIn.send([0x90, 60, 80])")
        expect(page.locator("[data-latency-told]")).to_contain_text("measured")
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(melody(bars=1, bpm=200))])
        page.get_by_role("button", name="Record").click()
        (take,) = self.stored(page)
        self.assertEqual(take.latency_ms, measured)
        expect(page.locator("#takes")).to_contain_text("latency allowed for")


class SeenAfterwardsTest(StandTest):
    def test_a_take_is_drawn_on_the_music_and_two_stand_beside_each_other(self) -> None:
        part = melody(bars=2, bpm=200)
        page = self.open_stand(part)
        factories.take(self.student, self.given, habits=Habits(spread_ms=4, wrong_keys=0.4))
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        page.get_by_role("button", name="Record").click()
        self.stored(page, 2)
        drawn = page.locator("[data-music-take]")
        expect(drawn).to_contain_text("Take 2 on the music")
        expect(page.locator(".music:not(#notation)")).to_be_hidden()
        page.get_by_role("button", name="on the music").nth(1).click()
        expect(drawn).to_contain_text("Take 1 on the music")
        page.get_by_role("button", name="the part alone").click()
        expect(page.locator(".music:not(#notation)")).to_be_visible()
        page.locator(".more-acts summary").first.click()
        page.get_by_role("button", name="compare").first.click()
        beside = page.get_by_role("dialog", name="Two takes beside each other")
        expect(beside.locator(".compared-row").first).to_be_visible()
        self.assertIn(f"/stand/{self.given.pk}/", page.url)
        page.get_by_role("button", name="Close").click()
        expect(beside).to_be_hidden()

    def test_the_last_loops_stand_as_charts(self) -> None:
        part = melody(bars=1, bpm=240)
        page = self.open_stand(part)
        page.evaluate(PERFORM_AT, ["data-loop-ms", self.played(part)])
        page.get_by_role("button", name="Practise").click()
        expect(page.locator("[data-loop-charts] li")).to_have_count(2)
        expect(page.locator("[data-loop-charts] .bar-state.is-well").first).to_be_visible()
        page.keyboard.press("Space")


class EarsAloneTest(StandTest):
    def test_the_music_is_stepped_through_in_words_and_sounds(self) -> None:
        part = two_hands(bars=4)
        page = self.open_stand(part)
        page.get_by_text("The music in words", exact=True).click()
        steps, said = (
            page.get_by_role("application", name="The music, step by step"),
            page.locator("[data-step-said]"),
        )
        steps.focus()
        first, second = moments(part)[:2]
        for key, moment in (("ArrowRight", first), ("ArrowRight", second)):
            page.keyboard.press(key)
            expect(said).to_contain_text(describe_moment(part, moment, ENGLISH))
        page.keyboard.press("ArrowDown")
        expect(said).to_contain_text("bar 2, beat 1")
        page.keyboard.press("PageDown")
        expect(said).to_have_text("right hand alone")
        page.keyboard.press("End")
        expect(said).to_contain_text("bar 4")
        expect(said).to_contain_text("right hand")
        # The arrows and Enter are its own: nothing is recorded.
        page.keyboard.press("Enter")
        expect(page.locator("[data-bar-now]")).to_be_hidden()
        page.keyboard.press("Tab")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("again from the count-in")
        page.keyboard.press("Escape")
        text = self.page.request.get(f"{self.live_server_url}/stand/{self.given.pk}/words.txt?plain").text()
        self.assertIn(plain_lines(part).splitlines()[0], text)

    def test_speech_while_recording_is_chosen_and_a_take_is_told_in_words(self) -> None:
        # Slow enough that a busy machine draws a frame in each bar.
        part = melody(bars=2, bpm=90)
        page = self.open_stand(part)
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        self.set_up(page)
        page.get_by_label("Announce").select_option("nothing")
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 2 of 2")
        expect(page.locator("[data-state]")).to_have_text("Recording")
        self.stored(page)
        link = page.get_by_role("link", name="note by note, in words")
        text = self.page.request.get(self.live_server_url + (link.get_attribute("href") or "")).text()
        self.assertEqual(text.count("bar 1, beat"), 4)
        self.assertIn("bar 1, beat 1: C4: ", text)


class SharedMachineTest(StandTest):
    def test_what_one_has_set_is_for_oneself_and_what_the_machine_needs_stays_with_it(self) -> None:
        page = self.open_stand(melody(bars=2, bpm=100), slower_percent=40)
        page.evaluate("localStorage.setItem('oido-latency', '{}')")
        page.get_by_label("tempo, beats a minute").fill("77")
        page.keyboard.press("Tab")
        page.get_by_label("Play on").select_option("screen")
        page.get_by_role("button", name="Set up").click()
        page.locator("[data-strip=click] [data-volume]").fill("33")
        with page.expect_response("**/stand/settings/"):
            pass
        other = factories.student()
        self.given.school_class.students.add(other)
        page.get_by_role("button", name="Sign out").click()
        self.sign_in(other.username, page)
        address = f"/stand/{self.given.pk}/"
        self.visit(address, page)
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(page.get_by_label("tempo, beats a minute")).to_have_value("100")
        expect(page.get_by_label("Play on")).to_have_value("midi")
        self.assertIsNone(page.evaluate("localStorage.getItem('oido-latency')"))
        page.get_by_role("button", name="Sign out").click()
        elsewhere = self.new_page()
        for at, source, volume in ((page, "screen", "33"), (elsewhere, "midi", "80")):
            self.sign_in(self.student.username, at)
            self.visit(address, at)
            at.locator("[data-stand][data-ready=yes]").wait_for()
            expect(at.get_by_label("tempo, beats a minute")).to_have_value("77")
            expect(at.get_by_label("Play on")).to_have_value(source)
            expect(at.locator("[data-strip=click] [data-volume]")).to_have_value(volume)


class PracticeTest(StandTest):
    def test_a_clean_loop_opens_the_next_rung_and_raises_the_tempo(self) -> None:
        part = melody(bars=2, bpm=160)
        page = self.page
        self.open_stand(part)
        rungs = (
            Rung(name="the first bar", first_bar=1, last_bar=1, needed_loops=1),
            Rung(name="all", first_bar=1, last_bar=2, needed_loops=1),
        )
        set_ladder(self.teacher, self.given.exercise, Ladder(rungs=rungs))
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(page.get_by_role("button", name="rung 2")).to_have_count(0)
        self.set_up(page)
        page.get_by_label("Clean loops before that").fill("1")
        page.evaluate(PERFORM_AT, ["data-loop-ms", self.played(rungs[0].part(part))])
        page.get_by_role("button", name="Practise now rung 1").click()
        expect(page.locator("[data-loop-news]")).to_contain_text("Rung passed.")
        expect(page.locator("[data-tempo]")).not_to_have_value("160")
        page.keyboard.press("Space")
        expect(page.locator("[data-practise]")).to_have_text("Practise")
        expect(page.get_by_role("button", name="rung 2")).to_be_visible()
        self.assertTrue(RungClimbed.objects.get().passed_at)
        self.assertFalse(Take.objects.exists())

    def test_tempo_bars_and_hands_by_keyboard(self) -> None:
        page = self.open_stand(beat(bars=4), slower_percent=20)
        tempo, told = page.get_by_label("tempo, beats a minute"), page.locator("[data-tempo-told]")
        expect(told).to_contain_text("You can hand in 80 to 100")
        page.get_by_role("button", name="slower").focus()
        page.keyboard.press("Enter")
        expect(tempo).to_have_value("99")
        tempo.fill("55")
        page.keyboard.press("Tab")
        expect(told).to_contain_text("For practice. You can only hand in 80 to 100")
        tempo.fill("9999")
        page.keyboard.press("Tab")
        expect(tempo).to_have_value("120")
        self.set_up(page)
        page.get_by_role("slider", name="tempo").focus()
        page.keyboard.press("ArrowLeft")
        expect(tempo).to_have_value("119")
        page.evaluate(TAP_TEMPO, 700)
        expect(tempo).to_have_value("86")
        page.get_by_label("First bar").fill("2")
        page.get_by_label("Last bar").fill("3")
        page.keyboard.press("Tab")
        expect(page.locator("[data-bar].is-chosen")).to_have_count(2)
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        expect(tempo).to_have_value("86")


class RecordingTest(StandTest):
    def test_drums_lane_by_lane_in_a_loop_each_pass_by_itself(self) -> None:
        part = beat(bars=1, bpm=150)
        page = self.open_stand(part, passes=3)
        self.set_up(page)
        page.get_by_text("looped").click()
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.rounds(part)])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("#takes")).to_contain_text("pass 3, over what is there")
        (take,) = self.stored(page)
        self.assertEqual(
            [sorted({e[2] for e in p.events}) for p in (take, *take.passes.all())], [[42], [38], [36]]
        )
        self.assertEqual(judged(take).facts.counts.matched, 11)
        hit = page.locator("[data-music-take] [data-hit]").first
        hit.dispatch_event("click")
        page.get_by_role("button", name="Remove this hit").click()
        expect(page.get_by_role("button", name="remove this pass pass 4")).to_be_visible()
        self.assertEqual(len(Take.objects.get().read().notes), 10)
        page.get_by_role("button", name="remove this pass pass 4").click()
        expect(page.get_by_role("button", name="restore this pass pass 4")).to_be_visible()
        page.get_by_role("button", name="remove this pass pass 3").click()
        expect(page.get_by_role("button", name="restore this pass pass 3")).to_be_visible()
        self.assertEqual(len(Take.objects.get().read().notes), 10)

    def test_a_round_is_played_again_and_the_line_tells_the_truth_of_a_silent_one(self) -> None:
        part = beat(bars=1, bpm=150)
        page = self.open_stand(part, passes=3)
        self.set_up(page)
        page.get_by_text("looped").click()
        span = 1000 * part.tempos.second_at(part.bars[-1].end_tick)
        hats = [[t + k * span, *e] for k in (0, 1) for t, *e in self.played(part) if e[1] == 42]
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", hats])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-lane-now]")).to_have_text("Now: hat. Next: snare.")
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 1")
        page.get_by_role("button", name="This round again").click()
        expect(page.locator("[data-state]")).to_contain_text(
            "One pass is recorded; the last round was silent."
        )
        (take,) = self.stored(page)
        self.assertEqual((len(take.read().notes), take.passes.count()), (8, 0))

    def rounds(self, part: Part) -> list[list[float]]:
        """The hat in the first round, the snare in the second, the kick in the third."""
        span = 1000 * part.tempos.second_at(part.bars[-1].end_tick)
        events = self.played(part)
        return [
            [t + k * span, *e] for k, pitch in enumerate((42, 38, 36)) for t, *e in events if e[1] == pitch
        ]

    def test_a_pass_in_place_of_a_bar(self) -> None:
        part = melody(bars=2, bpm=200)
        page = self.open_stand(part, passes=2)
        factories.take(self.student, self.given, habits=Habits(spread_ms=4, wrong_keys=0.5))
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.get_by_label("First bar").fill("2")
        page.keyboard.press("Tab")
        right = [e for e in self.played(part) if e[0] > 1100]
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", right])
        page.locator(".more-acts summary").click()
        page.get_by_role("button", name="replacing its bars").click()
        expect(page.locator("#takes")).to_contain_text("pass 2, replacing what is there")
        laid = TakePass.objects.get()
        self.assertEqual((laid.way, round(laid.from_ms), round(laid.until_ms)), ("replace", 1200, 2400))
        rows = judged(Take.objects.get()).facts.rows
        second_bar = [o for target, o in zip(rows.target, rows.outcome, strict=True) if (target or 0) >= 4]
        self.assertEqual(set(second_bar), {"matched"})

    def test_without_a_click_it_records_from_the_first_note_on(self) -> None:
        page = self.open_stand(melody(bars=3, bpm=180), has_click=False)
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-state]")).to_contain_text("the first note begins the take")
        events = self.played(melody(bars=3, bpm=150))
        page.evaluate(
            "(events) => { const now = performance.now() + 300; for (const [t, ...b] of events)"
            " setTimeout(() => midiStandIn.send(b, now + t), now + t - performance.now()); }",
            events,
        )
        page.wait_for_timeout(5500)
        page.keyboard.press("Space")
        (take,) = self.stored(page)
        self.assertAlmostEqual(take.events[0][0], 0, delta=1)
        self.assertEqual(judged(take).facts.counts.matched, 12)
        self.assertFalse(take.asks_click)


class ChoosingTest(StandTest):
    def test_name_star_compare_delete(self) -> None:
        page = self.open_stand(melody(bars=1))
        for _ in range(2):
            factories.take(self.student, self.given)
        page.reload()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        page.get_by_role("button", name="star take 2").click()
        expect(page.get_by_role("button", name="star take 2")).to_have_attribute("aria-pressed", "true")
        page.get_by_text("more for take 2").click()
        page.locator("input[name=name]").first.fill("calm")
        page.keyboard.press("Enter")
        expect(page.locator(".take-name")).to_have_text("calm")
        page.get_by_text("more for take 1").click()
        page.get_by_role("button", name="Delete take 1").click()
        expect(page.locator("#takes [data-take]")).to_have_count(1)
        page.get_by_role("button", name="Restore take 1").click()
        expect(page.locator("#takes [data-take]")).to_have_count(2)
        page.get_by_text("more for take 2").click()
        page.get_by_role("button", name="compare").first.click()
        expect(page.get_by_role("heading", name="Takes 2 and 1")).to_be_visible()

    def test_a_corrected_copy_by_keyboard(self) -> None:
        page = self.open_stand(melody(bars=1), allows_corrected_copies=True)
        take = factories.take(self.student, self.given, habits=Habits(spread_ms=30))
        self.visit(f"/takes/{take.pk}/copy/")
        page.locator("#work[data-ready=yes]").wait_for()
        page.get_by_role("link", name="Quantise", exact=True).press("Enter")
        page.locator("#quantise-step").select_option(str(GRID_STEPS[0]))
        expect(page.locator("#leaf-news")).to_contain_text("would move")
        page.locator("#quantise-do").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#bench-bar")).to_contain_text("Undo: Quantise")
        page.locator("#bench-page").focus()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("Picked:")
        page.keyboard.press("Delete")
        expect(page.locator("#bench-page .target")).to_have_count(3)
        raw, copy = raw_and_copy(Take.objects.get())
        self.assertEqual((len(raw.notes), len(copy.notes)), (4, 3))
        expect(page.locator("#corrections")).to_contain_text("deleted")

    def test_a_file_from_elsewhere(self) -> None:
        page = self.open_stand(melody(bars=2))
        data = write_recording([self.played(melody(bars=2))], part=melody(bars=2), count_in_bars=1)
        page.get_by_role("link", name="Import a recording").click()
        page.get_by_label("MIDI file").set_input_files(
            {"name": "home.mid", "mimeType": "audio/midi", "buffer": data}
        )
        page.get_by_role("button", name="Open the file").click()
        self.file_is_opened("**/elsewhere/*/")
        expect(page.get_by_label("Count-in before bar 1")).to_have_value("1")
        page.get_by_role("button", name="Import as a take").click()
        (take,) = self.stored(page)
        self.assertEqual(judged(take).facts.counts.matched, 8)


SCREENS = ((1280, 800), (1024, 768), (768, 1024), (390, 844), (844, 390))
SEEN = """
() => {
  const box = (element) => element.getBoundingClientRect();
  const shown = (what) => [...document.querySelectorAll(what)].filter((element) => element.checkVisibility());
  const inside = (element) => {
    const { left, top, right, bottom } = box(element);
    return left >= -1 && top >= -1 && right <= innerWidth + 1 && bottom <= innerHeight + 1;
  };
  return {
    out: shown("[data-record], [data-again], .keyboard button, .pads button, .music-now svg, [data-count], .beats-shown span")
      .filter((element) => !inside(element)).map((element) => element.outerHTML.slice(0, 90)),
    isAlone: document.querySelector("header").inert,
    others: shown(".music, .how, #takes, #ladder, .set-up, .stand-head").length,
    keys: Math.min(...shown(".keyboard .white").map((key) => box(key).width)),
    count: box(document.querySelector("[data-count]")).height,
    rows: shown(".music-now [data-row]").map((row) => row.querySelector("[data-bar]").getAttribute("data-bar")),
    wide: document.documentElement.scrollWidth > innerWidth,
  };
}
"""
"""What is seen while somebody plays: what lies outside the screen, what else is shown, how wide keys are, which rows stand."""


class PlayingViewTest(StandTest):
    def test_only_what_is_needed_stays_and_nothing_is_scrolled_away(self) -> None:
        page = self.open_stand(two_hands(bars=8), source="screen")
        for width, height in SCREENS:
            with self.subTest(width=width, height=height):
                page.set_viewport_size({"width": width, "height": height})
                page.get_by_role("button", name="Record").click()
                expect(page.locator(".music-now [data-row].is-now")).to_be_visible()
                expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 8")
                seen = page.evaluate(SEEN)
                self.assertEqual(
                    (seen["out"], seen["others"], seen["isAlone"], seen["wide"]), ([], 0, True, False)
                )
                self.assertEqual(seen["rows"][0], "1")
                if width >= 768:
                    self.assertGreaterEqual(seen["keys"], 44)
                    self.assertGreaterEqual(len(seen["rows"]), 2 if height > 500 else 1)
                if height > 500:
                    # Seen from two metres: two centimetres and more on a screen of 96 to the inch.
                    self.assertGreaterEqual(seen["count"], 76)
                page.keyboard.press("Space")
                expect(page.get_by_role("button", name="Record")).to_be_visible()
        self.assertFalse(Take.objects.exists())

    def test_a_drawing_that_comes_after_the_stop_is_laid_out_when_it_is_seen_again(self) -> None:
        page = self.open_stand(melody(bars=4), source="screen")
        held: list[Route] = []
        expect(page.locator(".music-now [data-row]")).not_to_have_count(0)
        # Another width than that for which the music came with the page.
        page.set_viewport_size({"width": 900, "height": 800})
        address = re.compile(r"/music/\?width=")
        self.intercept(address, held.append)
        with page.expect_request(address):
            page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_have_text("count-in")
        page.keyboard.press("Space")
        expect(page.get_by_role("button", name="Record")).to_be_visible()
        held[0].continue_()
        expect(page.locator(".music-now [data-row]")).not_to_have_count(0)
        page.get_by_role("button", name="Record").click()
        expect(page.locator(".music-now [data-row].is-now")).to_be_visible()
        page.keyboard.press("Space")

    def test_rows_are_read_downwards_and_the_next_is_never_above(self) -> None:
        part = melody(bars=12, bpm=300)
        page = self.open_stand(part)
        page.set_viewport_size({"width": 640, "height": 420})
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        page.get_by_role("button", name="Record").click()
        now = page.locator(".music-now [data-row].is-now")
        expect(now).to_be_visible()
        places = "() => [...document.querySelectorAll('.music-now [data-row]:not(.is-away)')].map((row) => [row.querySelector('[data-bar]').dataset.bar, row.getAttribute('transform')])"
        before = dict(page.evaluate(places))
        first, second = sorted(before, key=int)[:2]
        expect(page.locator(f".music-now [data-row].is-now [data-bar='{second}']")).to_be_visible()
        after = dict(page.evaluate(places))
        self.assertNotIn(first, after)
        self.assertEqual(after[second], before[first], "it has come to the top")
        third = sorted(after, key=int)[1]
        self.assertEqual(after[third], before[second], "and the one after it is below")
        # What was played is drawn where it was played.
        self.assertGreaterEqual(page.locator(".music-now [data-trace] path").count(), 4)
        (take,) = self.stored(page)
        self.assertEqual((take.ending, judged(take).facts.counts.matched), ("itself", len(part.notes)))

    def test_a_start_that_is_broken_off_is_no_take_unless_it_is_kept(self) -> None:
        part = melody(bars=8, bpm=120)
        page = self.open_stand(part, attempts=2)
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        page.keyboard.press("Enter")
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 8")
        page.wait_for_timeout(300)
        page.keyboard.press("Enter")
        expect(page.locator("[data-bar-now]")).to_contain_text("count-in")
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 8")
        page.wait_for_timeout(300)
        page.keyboard.press("Space")
        expect(page.locator("[data-state]")).to_contain_text(
            "Stopped in bar 1: not saved, and not counted as an attempt."
        )
        self.assertFalse(Take.objects.exists())
        page.get_by_role("button", name="Save it as a take").click()
        (take,) = self.stored(page)
        self.assertEqual(take.ending, "stopped")
        expect(page.get_by_role("button", name="Save it as a take")).to_be_hidden()

    def test_a_device_that_plays_while_something_else_is_selected_is_offered(self) -> None:
        page = self.open_stand(melody(bars=4, bpm=100), source="screen")
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 4")
        page.evaluate("midiStandIn.send([0x90, 60, 80])")
        expect(page.locator("[data-other-device-now]")).to_contain_text(
            "Stand-in keys sends notes, but “on-screen keys” is selected."
        )
        page.get_by_role("button", name="Play on Stand-in keys").click()
        expect(page.locator("[data-other-device-now]")).to_be_empty()
        page.evaluate("midiStandIn.send([0x90, 62, 80])")
        (take,) = self.stored(page)
        self.assertEqual([event[2] for event in take.events if event[1] == 0x90], [62])

    def test_what_is_asked_for_while_sounds_are_loading_is_one_thing_or_nothing(self) -> None:
        """Space twice, then Space and Enter, before the sounds are there: the last one counts, and by itself."""
        page, held = self.page, []
        page.route("**/*.sf3", lambda route: held.append(route))
        self.open_stand(melody(bars=4, bpm=200), source="screen")
        stand = page.locator("[data-stand]")
        page.keyboard.press("Space")
        expect(stand).to_have_attribute("data-doing", "preparing")
        expect(page.get_by_text("Getting the sounds ready …")).to_be_visible()
        expect(page.get_by_role("button", name="Record")).to_be_disabled()
        page.keyboard.press("Space")
        expect(stand).to_have_attribute("data-doing", "idle")
        page.keyboard.press("Space")
        page.keyboard.press("Enter")
        # A recording waits for nothing but the click: there is a simple sound for the keys meanwhile.
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 4")
        self.assertTrue(held)
        for route in held:
            route.continue_()
        self.assertEqual(stand.get_attribute("data-doing"), "recording")
        page.keyboard.press("Space")
        expect(stand).to_have_attribute("data-doing", "idle")
        page.wait_for_timeout(1000)
        self.assertEqual(stand.get_attribute("data-doing"), "idle")
        self.assertFalse(Take.objects.exists())

    def test_offline_or_signed_out_the_first_recording_shows_its_music_and_no_dialog(self) -> None:
        page = self.open_stand(melody(bars=4, bpm=150))
        expect(page.locator(".music-now [data-row]")).not_to_have_count(0)
        page.context.clear_cookies()
        page.set_viewport_size({"width": 1000, "height": 760})
        with page.expect_response(re.compile("/loops/")):
            page.get_by_role("button", name="Practise").click()
            expect(page.locator(".music-now [data-row].is-now")).to_be_visible()
        expect(page.locator("#signed-out")).to_be_hidden()
        page.keyboard.press("Space")
        expect(page.locator("#signed-out")).to_be_visible()
        self.troubles.clear()

    def test_the_dialog_of_an_unplugged_instrument_is_worked_by_keyboard(self) -> None:
        page = self.open_stand(melody(bars=40, bpm=100))
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("of 40")
        downbeat = page.locator("[data-stand]").get_attribute("data-downbeat-ms")
        for key in ("Enter", "Space"):
            page.evaluate("midiStandIn.send([0x90, 60, 80])")
            page.evaluate("midiStandIn.unplug('1')")
            said = page.get_by_role("alertdialog")
            expect(said.get_by_role("button", name="It is plugged in again")).to_be_focused()
            page.evaluate("midiStandIn.plug('1', 'Stand-in keys')")
            page.keyboard.press(key)
            expect(said).to_be_hidden()
            self.assertEqual(page.locator("[data-stand]").get_attribute("data-downbeat-ms"), downbeat)
        page.evaluate("midiStandIn.send([0x90, 62, 80])")
        page.evaluate("midiStandIn.unplug('1')")
        for _ in range(3):
            page.keyboard.press("Tab")
        expect(page.get_by_role("button", name="Stop and save")).to_be_focused()
        page.keyboard.press("Enter")
        (take,) = self.stored(page)
        self.assertEqual(take.ending, "unplugged")

    def test_an_instrument_that_is_unplugged_is_not_the_player(self) -> None:
        part = melody(bars=4, bpm=150)
        page = self.open_stand(part)
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 2 of 4")
        page.evaluate("midiStandIn.unplug('1')")
        said = page.get_by_role("alertdialog")
        expect(said).to_contain_text("Stand-in keys was unplugged in bar 2.")
        page.get_by_role("button", name="Stop and save").click()
        (take,) = self.stored(page)
        self.assertEqual(take.ending, "unplugged")
        expect(page.locator("#takes")).to_contain_text("the instrument was unplugged. That was not you")
        page.evaluate("midiStandIn.plug('1', 'Stand-in keys')")
        page.evaluate("midiStandIn.send([0x90, 60, 80])")
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 1 of 4")
        page.evaluate("midiStandIn.unplug('1')")
        page.get_by_role("button", name="Continue with typing keys").click()
        page.keyboard.press("KeyA")
        expect(said).to_be_hidden()
        takes = self.stored(page, 2)
        self.assertEqual((takes[-1].ending, takes[-1].source), ("itself", "typing"))

    def test_helps_are_switched_off_by_the_student_and_by_the_exercise(self) -> None:
        part = melody(bars=2, bpm=120)
        page = self.open_stand(part, withheld=("next",))
        expect(page.get_by_text("the next keys")).to_have_count(0)
        self.set_up(page)
        page.get_by_text("what I play").click()
        page.evaluate(PERFORM_AT, ["data-downbeat-ms", self.played(part)])
        page.get_by_role("button", name="Record").click()
        expect(page.locator("[data-bar-now]")).to_contain_text("bar 2 of 2")
        self.assertEqual(page.locator(".music-now [data-trace] path").count(), 0)
        self.assertEqual(page.locator(".is-next").count(), 0)
        expect(page.locator(".beats-shown")).to_be_visible()

    def test_without_a_click_the_playhead_follows_the_player(self) -> None:
        part = melody(bars=4, bpm=120)
        page = self.open_stand(part, has_click=False)
        page.get_by_role("button", name="Record").click()
        expect(page.locator(".music-now svg")).to_be_visible()
        for k in (0, 1, 2, 3, 4, 6, 7):
            page.evaluate("(pitch) => midiStandIn.send([0x90, pitch, 80])", part.notes[k].pitch)
            page.wait_for_timeout(60)
        bar = part.bar_of_note[7]
        expect(page.locator("[data-bar-now]")).to_contain_text(f"bar {bar} of 4")
        expect(page.locator("[data-count]")).to_be_hidden()
        page.keyboard.press("Space")
