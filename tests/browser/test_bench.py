"""From an idea to a part: by keyboard alone, and by mouse."""

import re
from dataclasses import replace

from playwright.sync_api import expect

from ear.formats.musicxml import write_compressed, write_musicxml
from ear.notes import STANDARD_KIT, Part
from oido.bench.services import open_draft
from oido.exercises.models import Exercise
from tests.browser.base import BrowserTest
from tests.browser.clocks import IDEAL_CLOCK
from tests.ear.parts import melody, two_hands
from tests.oido import factories


class BenchTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.teacher = factories.teacher()
        self.sign_in(self.teacher.username)

    def tab_to(self, selector: str) -> None:
        """Press Tab until something is reached, as somebody without a mouse does."""
        wanted = self.page.locator(selector)
        for _ in range(80):
            if wanted.evaluate("e => e === document.activeElement"):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"{selector} is not reached by Tab")

    def begin_by_keyboard(self, title: str, way_steps: int) -> None:
        """Title, then the way by arrow keys from the one that is chosen, then Enter."""
        page = self.page
        self.visit("/bench/new/")
        self.tab_to("#id_title")
        page.keyboard.type(title)
        page.keyboard.press("Tab")
        for _ in range(abs(way_steps)):
            page.keyboard.press("ArrowDown" if way_steps > 0 else "ArrowUp")

    def put_on_the_bench(self) -> None:
        self.page.keyboard.press("Enter")
        self.page.locator("#work[data-ready=yes]").wait_for()

    def keep(self) -> Exercise:
        self.tab_to(".bench-state + .btn")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text("Saved.")).to_be_visible()
        return Exercise.objects.latest("pk")

    def test_a_five_finger_melody_with_fingers_is_put_right_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Rail by Rail", 0)
        self.put_on_the_bench()
        self.tab_to("#bench-page")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("C4, bar 1, beat 1")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("D4, bar 1, beat 2")
        page.keyboard.press("ArrowUp")
        expect(page.locator("#picked")).to_contain_text("E♭4")
        page.keyboard.press("Control+z")
        expect(page.get_by_text("Redo: Move")).to_be_visible()
        exercise = Exercise.objects.latest("pk")
        self.assertEqual([n.finger for n in exercise.part.read().notes], [1, 2, 3, 4, 5, 4, 3, 2, 1])
        self.assertEqual([n.pitch for n in exercise.part.read().notes][:3], [60, 62, 64])

    def test_a_tune_is_written_as_text_and_kept_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Steps Ashore", -2)
        self.put_on_the_bench()
        self.tab_to("#bench-page")
        page.keyboard.press("w")
        text = page.locator("#tool-text textarea")
        expect(text).to_be_focused()
        page.keyboard.type("C4 E G C5\nB4+G/2 -/4 C5")
        # It is drawn while it is written, and not done yet.
        expect(page.locator("#text-news")).to_contain_text("7 notes would be added")
        expect(page.locator("#bench-page .target.is-new")).to_have_count(7)
        self.assertEqual(self.part(Exercise.objects.latest("pk")).notes, ())
        page.keyboard.press("Control+Enter")
        expect(page.get_by_text("Undo: The part as text")).to_be_visible()
        expect(text).to_have_value("1 R: C4/4 E4/4 G4/4 C5/4\n2 R: G4+B4/2 -/4 C5/4\n3 R: -/1\n4 R: -/1\n")
        expect(text).to_be_focused()
        # What is changed on the page is changed in the text.
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        for key in ("ArrowRight", "ArrowUp"):
            page.keyboard.press(key)
        expect(text).to_have_value(re.compile(r"^1 R: C#4/4|^1 R: Db4/4"))
        page.keyboard.press("Control+z")
        notes = [(n.onset_tick, n.pitch, n.length_tick) for n in self.keep().part.read().notes]
        self.assertEqual(notes[:4], [(0, 60, 480), (480, 64, 480), (960, 67, 480), (1440, 72, 480)])
        self.assertEqual(notes[4:], [(1920, 67, 960), (1920, 71, 960), (3360, 72, 480)])

    def test_a_scale_goes_through_twelve_keys_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Round the Harbour", 1)
        self.put_on_the_bench()
        self.tab_to("#bench-page")
        # To the strip of tools, by letter to the one that is wanted, and back with Escape.
        page.keyboard.press("t")
        page.keyboard.press("k")
        expect(page.locator("[data-tool=chain]")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator("#leaf-title")).to_have_text("Key chain")
        expect(page.locator("#leaf-news")).to_contain_text("165 notes would be added")
        page.keyboard.press("Escape")
        expect(page.locator("#bench-page .target")).to_have_count(15)
        expect(page.locator("#bench-page")).to_be_focused()
        page.keyboard.press("t")
        page.keyboard.press("Enter")
        self.tab_to("#chain-do")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Undo: Key chain")).to_be_visible()
        part = self.keep().part.read()
        self.assertEqual((len(part.sections), len(part.notes)), (12, 12 * 15))

    def test_chords_and_a_beat_with_accents_are_made_by_mouse(self) -> None:
        page = self.page
        for title, way, tool in (
            ("Four Lamps", "a chord sequence", None),
            ("Two Bars", "a drum groove", "Velocity"),
        ):
            self.visit("/bench/new/")
            page.get_by_label("Title").fill(title)
            page.get_by_label(way, exact=True).check()
            page.get_by_role("button", name="Open on the Bench").click()
            page.wait_for_url("**/bench/*/")
            if tool:
                page.get_by_role("toolbar").get_by_role("link", name=tool, exact=True).click()
                page.locator("#velocity-do").click()
                expect(page.get_by_text(f"Undo: {tool}")).to_be_visible()
                # Beside an open leaf the page is as the tool would make it, with what would be picked then.
                page.keyboard.press("Escape")
                expect(page.locator("#leaf")).to_be_hidden()
        self.click_note(0)
        expect(page.locator("#picked")).to_contain_text("bar 1, beat 1")
        self.click_note(1, "Shift")
        expect(page.locator("#picked")).to_contain_text("2 notes are picked")
        expect(page.locator(".is-picked")).to_have_count(2)
        page.keyboard.press("Delete")
        expect(page.get_by_text("Undo: Delete")).to_be_visible()
        expect(page.locator(".is-picked")).to_have_count(0)
        box = self.box_of(".bar-place", nth=1)
        page.mouse.dblclick(box["x"] + 0.19 * box["width"], box["y"] + box["height"] / 2)
        expect(page.get_by_text("Undo: Add a note")).to_be_visible()
        expect(page.locator("#picked")).to_contain_text("Picked: snare")

    def begin_by_mouse(self, title: str, way: str) -> Exercise:
        page = self.page
        self.visit("/bench/new/")
        page.get_by_label("Title").fill(title)
        page.get_by_label(way, exact=True).check()
        page.get_by_role("button", name="Open on the Bench").click()
        page.locator("#work[data-ready=yes]").wait_for()
        return Exercise.objects.latest("pk")

    def part(self, exercise: Exercise) -> Part:
        return open_draft(self.teacher, exercise).part

    def drag(self, box: dict, to_x: float, to_y: float, *, from_x: float = 0.5) -> None:
        mouse = self.page.mouse
        x, y = box["x"] + from_x * box["width"], box["y"] + box["height"] / 2
        mouse.move(x, y)
        mouse.down()
        mouse.move(x + to_x / 2, y + to_y / 2, steps=3)
        mouse.move(x + to_x, y + to_y, steps=3)
        mouse.up()

    def test_notes_are_dragged_boxed_and_weighed_by_mouse(self) -> None:
        page = self.page
        exercise = self.begin_by_mouse("Hauling In", "a five-finger position")
        first, second = self.part(exercise).notes[:2]
        box = self.box_of("#t1")
        self.drag(box, box["width"], 0)
        expect(page.get_by_text("Undo: Drag")).to_be_visible()
        moved = self.part(exercise).notes
        self.assertIn((960, second.pitch), [(n.onset_tick, n.pitch) for n in moved])
        self.drag(self.box_of("#t0"), 0, -5)
        expect(page.locator("#picked")).to_contain_text("D4, bar 1, beat 1")
        self.assertEqual(self.part(exercise).notes[0].pitch, first.pitch + 2)
        # Its end, dragged to the right, makes it longer by the step's value.
        box = self.box_of("#t0")
        self.drag({**box, "x": box["x"] + box["width"] - 2, "width": 0}, box["width"], 0)
        expect(page.locator("#picked")).to_contain_text("length minim")
        rows = self.box_of("#bench-page")
        self.drag({"x": rows["x"] + 60, "y": rows["y"] + 4, "width": 0, "height": 0}, 500, 90)
        expect(page.locator("#picked")).to_contain_text("notes are picked")
        expect(page.locator(".is-picked").nth(2)).to_be_visible()
        left, right = (self.box_of("#row-0 .weight-bar", nth=k) for k in (0, 3))
        self.drag(
            {"x": left["x"], "y": left["y"], "width": 0, "height": 0},
            right["x"] - left["x"],
            right["height"] / 2,
        )
        expect(page.get_by_text("Undo: Draw velocity")).to_be_visible()
        strengths = [n.velocity for n in self.part(exercise).notes[:4]]
        self.assertEqual(strengths, sorted(strengths, reverse=True))
        self.assertLess(strengths[3], strengths[0] - 10)

    def test_a_beat_with_accents_is_drawn_on_the_grid_by_keyboard(self) -> None:
        page = self.page
        self.begin_by_keyboard("Two Bars of Rain", -1)
        self.put_on_the_bench()
        exercise = Exercise.objects.latest("pk")
        self.tab_to("#bench-page")
        page.keyboard.press("t")
        page.keyboard.press("g")
        page.keyboard.press("Enter")
        page.locator("#grid td").first.wait_for()
        self.tab_to("#grid td[tabindex='0']")
        lanes = [lane.name for lane in STANDARD_KIT.lanes]
        for _ in range(lanes.index("hat")):
            page.keyboard.press("ArrowDown")
        for step in range(8):
            page.keyboard.press("Enter")
            if step % 2 == 0:
                page.keyboard.press("a")
            page.keyboard.press("ArrowRight")
        for _ in range(lanes.index("kick") - lanes.index("hat")):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        expect(page.locator("#grid td.is-begins")).to_have_count(9)
        expect(page.locator("#bench-page .target")).to_have_count(9)
        notes = self.part(exercise).notes
        hats = [(n.onset_tick, n.velocity > 100) for n in notes if n.pitch == 42]
        self.assertEqual(hats, [(240 * k, k % 2 == 0) for k in range(8)])
        self.assertEqual([n.onset_tick for n in notes if n.pitch == 36], [1920])
        # What is undone, or was not done, is not in the grid either; the keyboard stays where it was.
        page.keyboard.press("Control+z")
        expect(page.locator("#grid td.is-begins")).to_have_count(8)
        expect(page.locator("#grid td[tabindex='0']")).to_be_focused()
        self.intercept("**/do/cell/", lambda route: route.fulfill(status=500))
        # The grid is fetched anew then, and the keyboard is where it was.
        with page.expect_response(lambda answer: answer.request.method == "GET" and "grid" in answer.url):
            page.keyboard.press("Enter")
        expect(page.locator("#grid td.is-begins")).to_have_count(8)
        expect(page.locator("#grid td[tabindex='0']")).to_be_focused()
        self.assertEqual(len(self.part(exercise).notes), 8)
        page.keyboard.press("Enter")
        expect(page.locator("#bench-page .target")).to_have_count(9)
        self.troubles = [
            one for one in self.troubles if "500" not in one and "Response Status Error" not in one
        ]

    def test_a_pass_is_played_in_against_the_click(self) -> None:
        page = self.page
        page.add_init_script(IDEAL_CLOCK)
        exercise = self.begin_by_mouse("Drawn by Ear", "an empty page for keyboard")
        page.get_by_role("button", name="Play it in").click()
        page.locator("#play-last_bar").fill("1")
        page.locator("#play-count-in").fill("1")
        page.locator("#play-grid").select_option("480")
        page.locator("[data-play-in] [data-record]").click()
        page.wait_for_selector("[data-play-in][data-downbeat-ms]")
        page.evaluate(
            """() => {
                const downbeat = Number(document.querySelector("[data-play-in]").dataset.downbeatMs);
                const beat = 60000 / 90;
                [60, 64, 67].forEach((pitch, k) => {
                    const at = downbeat + k * beat + 20;
                    midiStandIn.send([0x90, pitch, 90], at);
                    midiStandIn.send([0x80, pitch, 64], at + 300);
                });
            }"""
        )
        expect(page.get_by_text("Undo: Play it in")).to_be_visible()
        actual = [(n.onset_tick, n.pitch, n.velocity) for n in self.part(exercise).notes]
        self.assertEqual(actual, [(0, 60, 90), (480, 64, 90), (960, 67, 90)])
        page.keyboard.press("Control+z")
        expect(page.locator("#bench-page .target")).to_have_count(0)

    def test_a_piece_with_fingers_is_imported_by_keyboard(self) -> None:
        page = self.page
        part = two_hands()
        part = part.with_notes(replace(n, finger=1 + k % 5) for k, n in enumerate(part.notes))
        self.visit("/exercises/new/")
        self.tab_to("#id_file")
        file = {
            "name": "pier.mxl",
            "mimeType": "application/zip",
            "buffer": write_compressed(write_musicxml(part, title="Pier")),
        }
        page.locator("#id_file").set_input_files(file)
        self.tab_to("main .btn-primary")
        page.keyboard.press("Enter")
        self.file_is_opened()
        expect(page.locator("#id_title")).to_have_value("Pier")
        self.tab_to("main .btn-primary")
        page.keyboard.press("Enter")
        page.wait_for_url("**/bench/*/")
        exercise = Exercise.objects.latest("pk")
        kept = exercise.part.read()
        self.assertEqual(kept.with_notes(replace(n, name_fifth=None) for n in kept.notes), part)
        self.assertEqual([n.name_fifth for n in kept.notes], list(part.names))
        # Notation and page point at the same notes.
        page.locator(".notation-place summary").click()
        page.locator("#notation .note use").first.dispatch_event("click")
        expect(page.locator("#notation .note.is-picked")).to_have_count(1)
        expect(page.locator("#bench-page .target.is-picked")).to_have_count(1)

    def test_what_is_wrong_is_said_beside_the_tool(self) -> None:
        page = self.page
        self.begin_by_keyboard("Wrong Words", 0)
        self.put_on_the_bench()
        text = page.locator("#tool-text textarea")
        text.fill("C4 zap")
        page.keyboard.press("Control+Enter")
        expect(page.locator("#tool-text [role=alert], #tool-text .wrong").first).to_contain_text(
            "Line 1: There is no note “zap”"
        )
        expect(text).to_have_value("C4 zap")
        page.get_by_role("link", name="Bars", exact=True).click()
        page.locator("#bars-last_bar").fill("900")
        page.locator("#bars-do").click()
        expect(page.locator("#leaf-news")).to_contain_text("less than or equal")
        expect(page.locator("#bars-last_bar")).to_have_value("900")

    def test_bars_are_picked_copied_and_put_elsewhere_and_a_hand_is_levelled(self) -> None:
        page = self.page
        exercise = self.begin_by_mouse("Four by Four", "a scale")
        before = self.part(exercise)
        page.locator("[data-pick-bar='1']").click()
        expect(page.locator("#picked")).to_contain_text("notes are picked")
        first = [n for n in before.notes if n.onset_tick < 1920]
        page.keyboard.press("Shift+ArrowUp")
        expect(page.get_by_text("Undo: Move")).to_be_visible()
        page.keyboard.press("Control+z")
        page.locator("[data-pick-bar='1']").click()
        expect(page.locator(".target.is-picked")).to_have_count(len(first))
        # What a leaf would do is drawn anew for what is done meanwhile, and not a second time once it was used.
        page.get_by_role("link", name="Transpose").click()
        expect(page.locator("#leaf-news")).to_contain_text(f"{len(first)} notes would change")
        page.locator("#key-semitones").fill("")
        expect(page.locator("#leaf-news")).to_contain_text("This field is required")
        page.locator("#key-semitones").fill("2")
        expect(page.locator("[data-looks]")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.get_by_text("Undo: Transpose")).to_be_visible()
        expect(page.locator("[data-looks]")).to_have_count(0)
        page.locator("#bench-page").focus()
        page.keyboard.press("Control+z")
        expect(page.get_by_text("Redo: Transpose")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("#leaf")).to_be_hidden()
        page.locator("[data-pick-bar='1']").click()
        expect(page.locator(".target.is-picked")).to_have_count(len(first))
        page.keyboard.press("Control+c")
        # The last bar holds one note; behind it is room.
        box = self.box_of(".bar-place", nth=-1)
        page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 4)
        expect(page.locator(".place-mark")).to_have_count(1)
        page.keyboard.press("Control+v")
        expect(page.get_by_text("Undo: Paste")).to_be_visible()
        put = [n.pitch for n in self.part(exercise).notes if n.onset_tick >= before.bars[-1].start_tick + 960]
        self.assertEqual(put, [n.pitch for n in first])
        self.click_note(0)
        expect(page.locator("#picked")).to_contain_text("Picked")
        page.keyboard.press("l")
        expect(page.locator("#picked")).to_contain_text("notes are picked")
        page.keyboard.press("=")
        expect(page.get_by_text("Undo: Velocity")).to_be_visible()
        self.assertEqual(len({n.velocity for n in self.part(exercise).notes}), 1)

    def test_what_is_done_is_drawn_before_the_server_answers_and_mended_after(self) -> None:
        page = self.page
        exercise = self.begin_by_mouse("Quick Hands", "a five-finger position")
        self.click_note(0)
        expect(page.locator("#picked")).to_contain_text("C4, bar 1, beat 1")
        held: list = []
        self.intercept("**/do/move/", held.append)
        page.keyboard.press("ArrowUp")
        page.keyboard.press("ArrowUp")
        expect(page.locator("#t0")).to_have_attribute("style", re.compile(r"translate: 0px -\d"))
        self.assertEqual(self.part(exercise).notes[0].pitch, 60)
        held[0].continue_()
        expect(page.locator("#picked")).to_contain_text("D4, bar 1, beat 1")
        self.assertEqual(self.part(exercise).notes[0].pitch, 62)
        self.assertEqual(page.locator("#t0").evaluate("e => e.style.translate"), "")
        # What is refused is taken back from the page.
        self.intercept("**/do/delete/", lambda route: route.fulfill(status=500))
        page.keyboard.press("Delete")
        expect(page.locator("#t0.is-picked")).to_be_visible()
        self.troubles = [
            one for one in self.troubles if "500" not in one and "Response Status Error" not in one
        ]

    def test_what_was_changed_in_another_window_is_shown_before_anything_is_done_to_it(self) -> None:
        page = self.page
        exercise = self.begin_by_mouse("Two Windows", "a five-finger position")
        notes = len(self.part(exercise).notes)
        self.click_note(2)
        expect(page.locator("#t2.is-picked")).to_be_visible()
        other = page.context.new_page()
        other.goto(page.url)
        other.locator("#work[data-ready=yes]").wait_for()
        other.locator("#bench-page").focus()
        other.keyboard.press("Delete")
        expect(other.locator(".target")).to_have_count(notes - 1)
        # Here the note stands still: it is not the next one that is deleted.
        page.locator("#bench-page").focus()
        page.keyboard.press("Delete")
        expect(page.locator("#bench-problem")).to_contain_text("Changed in another window")
        expect(page.locator(".target")).to_have_count(notes - 1)
        expect(page.locator(".is-gone")).to_have_count(0)
        self.assertEqual(len(self.part(exercise).notes), notes - 1)
        self.click_note(0)
        expect(page.locator("#t0.is-picked")).to_be_visible()
        expect(page.locator("#bench-problem")).to_be_empty()
        page.keyboard.press("Delete")
        expect(page.locator(".target")).to_have_count(notes - 2)
        # What a tool would do, and saving, too.
        other.get_by_role("link", name="Transpose").click()
        expect(other.locator("#bench-problem")).to_contain_text("Changed in another window")
        expect(other.locator(".target")).to_have_count(notes - 2)
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Saved.")).to_be_visible()
        # What is being written stays, in what there is now.
        text = page.locator("#tool-text textarea")
        lines = [line for line in text.input_value().split("\n") if not line.startswith("2..")]
        first = lines[0]
        text.fill(
            "\n".join(f"{line.split(':')[0]}: C5/1" if line.startswith("2") else line for line in lines)
        )
        expect(page.locator("#text-news")).to_contain_text("Nothing has been changed yet")
        other.keyboard.press("Escape")
        other.locator("#bench-page").focus()
        other.keyboard.press("ArrowRight")
        other.keyboard.press("Shift+ArrowUp")
        expect(other.get_by_text("Undo: Move")).to_be_visible()
        text.press("Control+Enter")
        expect(page.locator("#bench-problem")).to_contain_text("Changed in another window")
        expect(text).not_to_have_value(re.compile(re.escape(first)))
        expect(text).to_have_value(re.compile("2.*: C5/1"))
        text.press("Control+Enter")
        expect(page.get_by_text("Undo: The part as text")).to_be_visible()
        self.assertEqual([n.pitch for n in self.part(exercise).notes if 1920 <= n.onset_tick < 3840], [72])
        self.assertEqual(self.part(exercise).notes[0].pitch, 74)

    def test_what_a_screen_reader_is_told_of_the_page_and_of_what_was_done(self) -> None:
        page = self.page
        exercise = factories.exercise(self.teacher, melody(bars=1))
        self.visit(f"/bench/{exercise.pk}/")
        page.locator("#work[data-ready=yes]").wait_for()
        page.locator("#bench-page").press("ArrowRight")
        expect(page.locator("#picked")).to_contain_text("Picked: C4, bar 1, beat 1")
        page.keyboard.press("ArrowUp")
        expect(page.get_by_role("button", name="Undo: Move")).to_be_enabled()
        page.get_by_role("link", name="Transpose").press("Enter")
        expect(page.locator("#leaf-news")).to_contain_text("One note would change")
        expect(page.locator(".bench-desk")).to_match_aria_snapshot("""
            - 'button "Undo: Move"'
            - button "Nothing to redo" [disabled]
            - emphasis: "Not saved: students still see the previous version."
            - button "Save"
            - toolbar "Tools":
              - group "Write":
                - combobox "New note"
                - button "As text"
              - group "Timing":
                - link "Quantise"
              - group "Pitch":
                - link "Transpose"
              - group "Labels":
                - button "Labels shown"
            - status: /Picked. C♯4, bar 1, beat 1, .* velocity 92/
            - group "What is picked":
              - button "whole bar"
              - button "earlier"
              - button "delete"
              - button "keys"
            - alert
        """)
        expect(page.locator("#leaf")).to_match_aria_snapshot("""
            - region "Transpose":
              - heading "Transpose" [level=2]
              - button "Close"
              - combobox "To the key"
              - spinbutton "Or by semitones (− down)"
              - button "Apply"
              - status:
                - paragraph: /One note would change/
        """)

    def test_a_long_page_is_drawn_where_it_is_looked_at_and_then_all_over(self) -> None:
        page = self.page
        exercise = factories.exercise(self.teacher, melody(bars=80))
        count = len(self.part(exercise).notes)
        held: list = []
        page.route("**/rows/*", lambda route: held.append(route))
        self.visit(f"/bench/{exercise.pk}/")
        page.locator("#work[data-ready=yes]").wait_for()
        late = page.locator("[data-late]")
        expect(late.first).to_be_attached()
        # The text is wanted before it is written out.
        page.locator("#bench-page").press("w")
        expect(page.locator("#tool-text textarea")).to_be_focused()
        # An act does not wait for rows; what they were is asked for again.
        self.click_note(0)
        expect(page.locator("#picked")).to_contain_text("bar 1, beat 1")
        page.keyboard.press("ArrowUp")
        expect(page.get_by_text("Undo: Move")).to_be_visible()
        while late.count():
            page.wait_for_timeout(20)
            while held:
                held.pop().continue_()
        expect(page.locator("#bench-page .target")).to_have_count(count)
        # In the middle of the page the rows there are drawn first, and where the rest comes, nothing jumps.
        page.evaluate(
            "document.querySelector('#row-9').scrollIntoView({ block: 'center', behavior: 'instant' })"
        )
        page.keyboard.press("Control+a")
        page.keyboard.press("ArrowUp")
        expect(page.locator("#row-9 .target").first).to_be_visible()
        expect(page.locator("#row-0[data-late]")).to_be_attached()
        before = self.box_of("#row-9 .bar-place")
        while late.count():
            page.wait_for_timeout(20)
            while held:
                held.pop().continue_()
        self.assertAlmostEqual(self.box_of("#row-9 .bar-place")["y"], before["y"], delta=1)
        expect(page.locator("#bench-page .target.is-picked")).to_have_count(count)
        # What a tool would do is drawn as far as it is seen, wherever one goes.
        page.keyboard.press("t")
        page.keyboard.press("t")
        page.keyboard.press("Enter")
        expect(page.locator("#leaf-title")).to_have_text("Transpose")
        expect(page.locator("#row-9:not([data-late])")).to_be_attached()
        page.locator("#key-semitones").fill("3")
        expect(page.locator("#row-0[data-late]")).to_be_attached()
        page.evaluate("window.scrollTo(0, 0)")
        expect(page.locator("#row-0:not([data-late])")).to_be_attached()
        expect(page.locator("#row-9[data-late]")).to_be_attached()
        page.keyboard.press("Escape")
        expect(late).to_have_count(0)
        self.assertEqual(self.part(exercise).notes[0].pitch, melody().notes[0].pitch + 2)

    def test_what_is_picked_goes_with_the_finger(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        page = self.new_page(has_touch=True)
        self.sign_in(self.teacher.username, page)
        self.visit(f"/bench/{exercise.pk}/", page)
        page.locator("#work[data-ready=yes]").wait_for()
        page.touchscreen.tap(*self.middle_of("#t0", page))
        expect(page.locator("#picked")).to_contain_text("Picked")
        (x, y), width = self.middle_of("#t0", page), self.box_of("#t0", page)["width"]
        self.draw_by_finger(page, (x, y), (x + width / 2, y), (x + width, y))
        expect(page.get_by_text("Undo: Drag")).to_be_visible()
        self.assertNotEqual(self.part(exercise).notes, two_hands().notes)

    def test_a_note_is_tapped_moved_and_deleted_by_touch_at_the_width_of_a_tablet(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        page = self.new_page(has_touch=True)
        page.set_viewport_size({"width": 768, "height": 1024})
        self.sign_in(self.teacher.username, page)
        self.visit(f"/bench/{exercise.pk}/", page)
        page.locator("#work[data-ready=yes]").wait_for()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 768)
        page.touchscreen.tap(*self.middle_of("#t0", page))
        expect(page.locator("#picked")).to_contain_text("Picked")
        page.get_by_role("button", name="later").tap()
        expect(page.get_by_text("Undo: Move")).to_be_visible()
        page.get_by_role("button", name="delete").tap()
        expect(page.get_by_text("Undo: Delete")).to_be_visible()
        page.get_by_role("link", name="Transpose").tap()
        expect(page.locator("#leaf-news")).to_contain_text("would change")
        leaf = page.locator("#leaf").bounding_box()
        self.assertGreater(leaf["y"], 400)

    def test_on_a_narrow_screen_fewer_bars_stand_in_a_row_and_a_note_can_be_pointed_at(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands())
        page = self.new_page(has_touch=True)
        page.set_viewport_size({"width": 390, "height": 800})
        self.sign_in(self.teacher.username, page)
        self.visit(f"/bench/{exercise.pk}/", page)
        page.locator("#bench-page[data-layout=narrow]").wait_for()
        rows = len(self.part(exercise).bars) // 2
        expect(page.locator(".bench-row")).to_have_count(rows)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.touchscreen.tap(*self.middle_of("#t0", page))
        expect(page.locator("#picked")).to_contain_text("Picked")
        page.get_by_role("button", name="later").tap()
        expect(page.get_by_text("Undo: Move")).to_be_visible()
        expect(page.locator(".bench-row")).to_have_count(rows)
        # Opened again it is so at once; turned to the side it is as wide as others.
        opened = page.reload()
        assert opened is not None
        self.assertIn('data-layout="narrow"', opened.text())
        page.set_viewport_size({"width": 1280, "height": 800})
        page.locator("#bench-page[data-layout=wide]").wait_for()
        expect(page.locator(".bench-row")).not_to_have_count(rows)
        expect(page.locator(".target")).to_have_count(len(self.part(exercise).notes))
