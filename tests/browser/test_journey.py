"""From an exercise to a mark, as a teacher and a student go it."""

import re

from playwright.sync_api import FilePayload, Page, expect

from ear.formats.events import events_from_take
from ear.formats.smf_writing import write_part
from ear.notes import Part
from ear.players.robot import Habits, play
from oido.takes.models import Take
from tests.browser.base import BrowserTest
from tests.browser.clocks import IDEAL_CLOCK
from tests.ear.parts import beat, melody, two_hands
from tests.oido import factories

PERFORM = """
(events) => {
  const stand = document.querySelector("[data-stand]");
  window.said = [];
  new MutationObserver(() => {
    const downbeatMs = Number(stand.dataset.downbeatMs);
    if (!downbeatMs) return;
    for (const [timeMs, ...bytes] of events) {
      const timeStamp = downbeatMs + timeMs;
      setTimeout(() => window.midiStandIn.send(bytes, timeStamp), timeStamp - performance.now());
    }
  }).observe(stand, { attributeFilter: ["data-downbeat-ms"] });
  const state = document.querySelector("[data-state]");
  new MutationObserver(() => window.said.push(state.textContent)).observe(state, { childList: true });
}
"""
"""Plays events on the stand-in as soon as recording has a downbeat; notes what the page says."""
CHANGED = re.compile(r"55\s+teacher’s score; measured \d+")
"""The teacher's figure with the machine's beside it."""
HABITS = Habits(spread_ms=6, wrong_keys=0.06, misses=0.05)


def midi_file(part: Part) -> FilePayload:
    return {"name": "part.mid", "mimeType": "audio/midi", "buffer": write_part(part)}


class JourneyTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher = factories.teacher(first="Tess")
        self.student = factories.student(first="Stella")
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])

    def test_keyboard_by_mouse(self) -> None:
        self.go_the_way(two_hands(bars=2), kind="Keyboard")

    def test_drums_by_mouse(self) -> None:
        self.go_the_way(beat(bars=2, bpm=120), kind="Drums")

    def heard_and_stopped(self, page: Page, name: str) -> None:
        """Begun, and stopped before it is over, however long the machine takes to press the second button."""
        page.evaluate("holdClock(true)")
        page.get_by_role("button", name=name, exact=name == "Play").click()
        page.get_by_role("button", name="Stop").click()
        page.evaluate("holdClock(false)")

    def go_the_way(self, part: Part, *, kind: str) -> None:
        page = self.page
        page.add_init_script(IDEAL_CLOCK)
        self.sign_in(self.teacher.username)
        self.make_exercise(part, kind=kind)
        expect(page.locator("[data-page-view] .target")).to_have_count(len(part.notes))
        self.heard_and_stopped(page, "Play")
        page.get_by_role("link", name="Give it").click()
        page.get_by_role("button", name="Give it").click()
        expect(page.locator("#watch")).to_contain_text("0 of 1 handed in")

        student = self.new_page()
        # Where this machine's sound stumbles, the notes played here by the wall clock miss their bars.
        student.add_init_script(IDEAL_CLOCK)
        self.sign_in(self.student.username, student)
        student.get_by_role("link", name="Open the Stand").click()
        expect(student.locator("[data-answer]")).to_contain_text("Stand-in keys")
        pitch = part.notes[0].pitch
        student.evaluate(f"midiStandIn.send([0x90, {pitch}, 77]); midiStandIn.send([0x80, {pitch}, 0])")
        expect(student.locator("[data-answer]")).to_contain_text("answers: ")
        expect(student.locator("[data-answer]")).to_contain_text("77")
        self.heard_and_stopped(student, "Listen")

        played = events_from_take(play(part, HABITS, seed=4))
        student.evaluate(PERFORM, [list(event) for event in played])
        student.get_by_role("button", name="Record").click()
        expect(student.locator("[data-state]")).to_have_text("Take stored.")
        said = " ".join(student.evaluate("window.said"))
        for words in ("Count-in", "Recording, bar 1 of 2", "Recording, bar 2 of 2"):
            self.assertIn(words, said)
        take = Take.objects.get()
        self.assertEqual(take.source, "midi")
        self.assertEqual(take.device, "Stand-in keys")
        self.heard_and_stopped(student, "Hear take 1")
        student.get_by_role("link", name="Hand in take 1").click()
        student.get_by_label("A note to your teacher").fill("At home, after supper.")
        student.get_by_role("button", name="Hand in").click()
        expect(student.get_by_role("status").first).to_contain_text("Take 1 has been handed in.")
        expect(student.get_by_role("heading", name="Receipt")).to_be_visible()
        student.get_by_role("link", name="Back to the Stand").click()

        page.get_by_role("link", name="Marking").click()
        page.get_by_role("link", name="Open the first").click()
        expect(page.locator("body")).to_contain_text("At home, after supper.")
        expect(page.locator(".drift").first).to_be_visible()
        expect(page.locator(".weight").first).to_be_visible()
        expect(page.locator(".takes .take").first).to_be_visible()
        page.get_by_text("Show the working").click()
        expect(page.locator(".working")).to_contain_text("right, out of the notes written")
        for what in ("part", "take", "both"):
            page.locator(".words label", has_text=what).click()
            self.heard_and_stopped(page, "Play")
        page.get_by_role("link", name="Change Flow").click()
        page.get_by_label("Score").fill("55")
        page.get_by_label("Why").fill("Stopped to breathe")
        page.get_by_role("button", name="Save").click()
        expect(page.locator("#mark")).to_contain_text(CHANGED)
        page.get_by_role("textbox", name="Remark").fill("Look ahead here.")
        page.get_by_label("Bar", exact=True).fill("2")
        page.get_by_label("Beat").fill("1")
        page.get_by_role("button", name="Pin").click()
        expect(page.locator("#remarks blockquote")).to_contain_text("Look ahead here.")
        expect(page.locator("[data-page-view] .flag")).to_have_count(1)

        student.get_by_role("link", name="Report on take 1").click()
        expect(student.locator("body")).not_to_contain_text("Look ahead here.")
        page.get_by_role("button", name="Release and next").click()
        expect(page.locator("body")).to_contain_text("Nothing is waiting to be marked")
        student.reload()
        expect(student.locator("#remarks")).to_contain_text("Look ahead here.")
        expect(student.locator("#mark")).to_contain_text(CHANGED)

    def make_exercise(self, part: Part, *, kind: str) -> None:
        page = self.page
        page.get_by_role("link", name="Exercises").click()
        page.get_by_role("link", name="New exercise").click()
        page.get_by_role("link", name="Import a MIDI or MusicXML file").click()
        page.get_by_label("File").set_input_files(midi_file(part))
        page.get_by_role("button", name="Open the file").click()
        self.file_is_opened()
        page.get_by_label("Title").fill("Sea Gate")
        page.get_by_label(kind).check()
        page.get_by_label("Instructions").fill("Calmly.")
        page.get_by_label("Count-in bars").fill("1")
        page.get_by_label("Level").select_option("building")
        page.get_by_role("button", name="Open on the Bench").click()
        page.get_by_role("link", name="Sea Gate").click()
        expect(page.get_by_role("heading", name="Sea Gate")).to_be_visible()


class KeyboardOnlyTest(BrowserTest):
    """The whole way with the keyboard alone: controls are reached by focus and pressed by keys."""

    def setUp(self) -> None:
        super().setUp()
        self.teacher, self.student = factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])

    def press(self, role: str, name: str, key: str = "Enter", *, page: Page | None = None) -> None:
        control = (page or self.page).get_by_role(role, name=name).first
        control.focus()
        expect(control).to_be_focused()
        (page or self.page).keyboard.press(key)

    def type_in(self, label: str, text: str) -> None:
        self.page.get_by_label(label, exact=True).focus()
        self.page.keyboard.press("Control+A")
        self.page.keyboard.type(text)

    def test_drums(self) -> None:
        self.go_the_way(beat(bars=1, bpm=160), kind="Drums", keys="kfkj", said="answers: hat, 80")

    def test_keyboard(self) -> None:
        self.go_the_way(melody(bars=1, bpm=160), kind="Keyboard", keys="asdf", said="answers: C4, 80")

    def go_the_way(self, part: Part, *, kind: str, keys: str, said: str) -> None:
        page = self.page
        self.sign_in(self.teacher.username)
        self.press("link", "Exercises")
        self.press("link", "New exercise")
        self.press("link", "Import a MIDI or MusicXML file")
        page.get_by_label("File").set_input_files(midi_file(part))
        self.press("button", "Open the file")
        self.file_is_opened()
        self.type_in("Title", "Sea Gate")
        self.press("radio", kind, "Space")
        self.press("button", "Open on the Bench")
        self.press("link", "Sea Gate")
        expect(page.get_by_role("heading", name="Sea Gate")).to_be_visible()
        page.get_by_role("heading", name="Sea Gate").click()
        # A page is seen before its scripts have run: until then Space only scrolls.
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "no")
        page.keyboard.press("Space")
        expect(page.locator("[data-player]")).to_have_attribute("data-playing", "yes")
        page.keyboard.press("Space")
        self.press("link", "Give it")
        expect(page.get_by_role("checkbox", name=self.school_class.name)).to_be_checked()
        self.press("button", "Give it")
        expect(page.locator("#watch")).to_contain_text("0 of 1 handed in")

        student = self.new_page()
        self.sign_in(self.student.username, student)
        self.record_and_hand_in(student, keys=keys, said=said)

        self.press("link", "Marking")
        self.press("link", "Open the first")
        self.press("link", "Change Flow")
        # The form takes the focus when it has settled: what is focused before that loses it again.
        expect(page.get_by_label("Score", exact=True)).to_be_focused()
        self.type_in("Score", "55")
        self.type_in("Why", "Stopped to breathe")
        self.press("button", "Save")
        expect(page.locator("#mark")).to_contain_text(CHANGED)
        page.get_by_role("textbox", name="Remark").focus()
        page.keyboard.type("Look ahead here.")
        self.type_in("Bar", "1")
        self.press("button", "Pin")
        expect(page.locator("#remarks blockquote")).to_contain_text("Look ahead here.")
        self.press("button", "Release and next")
        expect(page.locator("body")).to_contain_text("Nothing is waiting to be marked")
        self.press("link", "Back to the Stand", page=student)
        self.press("link", "Report on take 1", page=student)
        expect(student.locator("#remarks")).to_contain_text("Look ahead here.")

    def record_and_hand_in(self, page: Page, *, keys: str, said: str) -> None:
        """On typing keys; Space hears and stops, Enter records."""
        self.press("link", "Open the Stand", page=page)
        page.get_by_label("Play on").focus()
        page.get_by_label("Play on").select_option("typing")
        page.get_by_label("Play on").blur()
        expect(page.locator("[data-pitch]").first).to_be_visible()
        expect(page.locator("[data-answer]")).to_contain_text("Press a letter")
        page.keyboard.press(keys[0])
        expect(page.locator("[data-answer]")).to_contain_text(said)
        page.keyboard.press("Space")
        expect(page.locator("[data-hear-part]")).to_have_text("Stop")
        page.keyboard.press("Space")
        page.keyboard.press("Enter")
        expect(page.locator("[data-state]")).to_contain_text("Recording")
        for key in keys:
            page.keyboard.press(key)
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        self.assertEqual(Take.objects.get().source, "typing")
        self.press("link", "Hand in take 1", page=page)
        expect(page.locator(".take-choice").get_by_role("radio")).to_be_checked()
        self.press("button", "Hand in", page=page)
        # Keys that were pressed as fast as a script can are not always the exercise: then the page asks once.
        asked, done = page.get_by_label("Hand it in anyway"), page.get_by_text("Take 1 has been handed in.")
        expect(asked.or_(done)).to_be_visible()
        if asked.count():
            asked.focus()
            page.keyboard.press("Space")
            self.press("button", "Hand in", page=page)
        expect(done).to_be_visible()
        self.assertTrue(Take.objects.get().is_handed_in)

    def test_space_in_the_count_in_keeps_nothing(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        self.sign_in(self.student.username)
        self.visit(f"/stand/{given.pk}/")
        self.page.wait_for_selector("[data-answer]:has-text('Stand-in')")
        self.page.keyboard.press("Enter")
        expect(self.page.locator("[data-state]")).to_have_text("Count-in")
        self.page.keyboard.press("Space")
        expect(self.page.locator("[data-state]")).to_have_text("Stopped; nothing was saved.")
        self.assertFalse(Take.objects.exists())


NOTES_LIVE = """
() => {
  window.live = [];
  new MutationObserver((changes) => {
    for (const { target } of changes) {
      const region = (target.nodeType === 1 ? target : target.parentElement)?.closest("[role=status], [role=alert], [aria-live]");
      const words = region?.textContent.replace(/\\s+/g, " ").trim();
      if (words && window.live.at(-1) !== words) window.live.push(words);
    }
  }).observe(document.body, { childList: true, subtree: true, characterData: true });
}
"""
"""Notes what live regions say from now on."""
NAMED = "button|link|textbox|combobox|checkbox|radio|spinbutton|slider|dialog"
NAMELESS = re.compile(rf"- ({NAMED})\s*(:|\[|$)", re.MULTILINE)


class StudentsWayTest(BrowserTest):
    """From signing in to feedback, as students go it who have a telephone, or cannot see the page."""

    def setUp(self) -> None:
        super().setUp()
        self.teacher, self.student = factories.teacher(), factories.student()
        self.school_class = factories.school_class(teachers=[self.teacher], students=[self.student])

    def give(self, part: Part) -> None:
        factories.assignment(factories.exercise(self.teacher, part), self.school_class)

    def handed_in(self, page: Page) -> None:
        """What was played here as fast as a script can is asked about once."""
        asked, done = page.get_by_label("Hand it in anyway"), page.get_by_text("Take 1 has been handed in.")
        expect(asked.or_(done)).to_be_visible()
        if asked.count():
            asked.check()
            page.get_by_role("button", name="Hand in").press("Enter")
        expect(done).to_be_visible()

    def test_keyboard_by_finger(self) -> None:
        self.go_by_finger(melody(bars=2, bpm=150))

    def test_drums_by_finger(self) -> None:
        self.go_by_finger(beat(bars=2, bpm=150))

    def go_by_finger(self, part: Part) -> None:
        self.give(part)
        page = self.new_page(midi=False, has_touch=True, is_mobile=True)
        page.set_viewport_size({"width": 390, "height": 844})
        self.sign_in(self.student.username, page)
        page.get_by_role("link", name="Open the Stand").tap()
        page.locator("[data-stand][data-ready=yes]").wait_for()
        keys = [page.locator(f".dock [data-pitch='{note.pitch}']").first for note in part.notes[:3]]
        keys[0].tap()
        expect(page.locator("[data-answer]")).to_contain_text("answers: ")
        page.get_by_role("button", name="Record").tap()
        expect(page.locator("[data-state]")).to_contain_text("Recording")
        for key in keys:
            key.tap()
        expect(page.locator("[data-state]")).to_have_text("Take stored.")
        take = Take.objects.get()
        self.assertEqual(
            (take.source, take.read().pitches.tolist()), ("screen", [n.pitch for n in part.notes[:3]])
        )
        page.get_by_role("link", name="Hand in take 1").tap()
        page.get_by_role("button", name="Hand in").tap()
        self.handed_in(page)
        page.get_by_role("link", name="Back to the Stand").tap()
        page.get_by_role("link", name="Report on take 1").tap()
        expect(page.get_by_role("heading", name="What to do next")).to_be_visible()

    def test_by_ear_alone(self) -> None:
        part = melody(bars=2, bpm=150)
        self.give(part)
        page = self.new_page(midi=False)
        self.visit("/", page)
        for label, text in (("Sign-in name", self.student.username), ("Password", factories.PASSWORD)):
            page.get_by_label(label).fill(text)
        self.everything_has_a_name(page)
        page.get_by_role("button", name="Sign in").press("Enter")
        self.everything_has_a_name(page)
        page.get_by_role("link", name="Open the Stand").press("Enter")
        page.locator("[data-stand][data-ready=yes]").wait_for()
        self.everything_has_a_name(page)
        expect(page.get_by_role("status").filter(has_text="Press a letter")).to_be_visible()
        page.evaluate(NOTES_LIVE)
        page.keyboard.press("KeyA")
        expect(page.get_by_role("status").filter(has_text="answers: C4")).to_be_visible()
        page.get_by_role("button", name="Record").press("Enter")
        expect(page.get_by_role("status").filter(has_text="Recording, bar 2 of 2")).to_be_visible()
        page.keyboard.press("KeyD")
        expect(page.get_by_role("status").filter(has_text="Take stored.")).to_be_visible()
        heard = page.evaluate("window.live")
        for words, times in (
            ("Count-in", 1),
            ("Recording, bar 1 of 2", 1),
            ("Recording, bar 2 of 2", 1),
            ("Take stored.", 1),
        ):
            self.assertEqual(heard.count(words), times, heard)
        self.assertTrue(any("answers: C4" in words for words in heard), heard)
        page.get_by_role("link", name="Hand in take 1").press("Enter")
        self.everything_has_a_name(page)
        page.get_by_role("button", name="Hand in").press("Enter")
        self.handed_in(page)
        page.get_by_role("link", name="Back to the Stand").press("Enter")
        page.get_by_role("link", name="note by note, in words").press("Enter")
        expect(page.locator("body")).to_contain_text("bar 1, beat 1: C4")
        page.go_back()
        page.get_by_role("link", name="Report on take 1").press("Enter")
        self.everything_has_a_name(page)
        expect(page.get_by_role("region", name="What to do next")).to_contain_text("record again")
        # The words are a file, which names no icon: the browser looked for one.
        self.troubles = [trouble for trouble in self.troubles if "404" not in trouble]

    def everything_has_a_name(self, page: Page) -> None:
        page.get_by_role("main").wait_for()
        nameless = NAMELESS.findall(page.locator("body").aria_snapshot())
        self.assertEqual(nameless, [], page.url)
