"""Faults that tests must notice: each is put into a copy of the code, and some test of those named must fail.

`./oido bench mutants` runs them all. A fault names a place by its text, which stands in its file once.
"""

from typing import NamedTuple


class Fault(NamedTuple):
    file: str
    was: str
    becomes: str
    tests: str
    """Modules of tests, of which one notices."""


J, M, F, R, E, X = (
    "src/ear/judging/",
    "src/ear/measuring/",
    "src/ear/findings/",
    "src/ear/recording/",
    "src/ear/editing/",
    "src/ear/formats/",
)
S = "src/oido/stand/static/stand/js/"
SUMS, MARKS, LISTEN = (
    "tests.ear.test_sums",
    "tests.ear.test_sums tests.ear.test_marks",
    "tests.ear.test_listening",
)

FAULTS = (
    # what criteria cost
    Fault(J + "touch.py", "TOUCH_FULL, TOUCH_NONE = 16.0, 46.0", "TOUCH_FULL, TOUCH_NONE = 16.0, 60.0", SUMS),
    Fault(J + "touch.py", "TOUCH_FULL, TOUCH_NONE = 16.0, 46.0", "TOUCH_FULL, TOUCH_NONE = 26.0, 46.0", SUMS),
    Fault(J + "touch.py", "ACCENT_SHARE = 0.7", "ACCENT_SHARE = 0.5", SUMS),
    Fault(J + "touch.py", "ACCENT_FULL = 0.7", "ACCENT_FULL = 0.9", SUMS),
    Fault(J + "touch.py", "LEVEL_FORGIVEN = 15.0", "LEVEL_FORGIVEN = 0.0", SUMS),
    Fault(J + "touch.py", "LENGTH_NONE_OCTAVES = 0.3, 1.6", "LENGTH_NONE_OCTAVES = 0.3, 2.6", SUMS),
    Fault(J + "touch.py", "LENGTH_FULL_OCTAVES, LENGTH_NONE_OCTAVES = 0.3", "LENGTH_FULL_OCTAVES, LENGTH_NONE_OCTAVES = 0.6", SUMS),
    Fault(J + "touch.py", "np.where(held | seen.right, 1.0, of_played(credits))", "np.where(seen.right, 1.0, of_played(credits))", SUMS),
    Fault(J + "flow.py", "SlipKind.RESTART: 20.0", "SlipKind.RESTART: 5.0", SUMS),
    Fault(J + "flow.py", "SlipKind.SKIP_BAR: 15.0", "SlipKind.SKIP_BAR: 12.0", SUMS),
    Fault(J + "flow.py", "SlipKind.LATE_START: 10.0", "SlipKind.LATE_START: 12.0", SUMS),
    Fault(J + "flow.py", "SlipKind.RECOVERY: 4.0", "SlipKind.RECOVERY: 12.0", SUMS),
    Fault(J + "flow.py", "UNFINISHED_COST = 100.0", "UNFINISHED_COST = 50.0", SUMS),
    Fault(J + "flow.py", "abs(slip.beats) * 60.0", "slip.beats * 60.0", SUMS),
    Fault(J + "notes.py", "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25", "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 1.0, 0.25", SUMS),
    Fault(J + "notes.py", "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25", "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.5", SUMS),
    Fault(J + "notes.py", "if n in free or not", "if not", SUMS),
    Fault(J + "notes.py", "(100.0 - floor_percent))", "100.0)", SUMS),
    Fault(J + "levels.py", "beside_share=0.5, floor_percent=50", "beside_share=0.6, floor_percent=50", MARKS),
    Fault(J + "levels.py", "window=Window(full_ms=40, none_ms=120)", "window=Window(full_ms=50, none_ms=120)", SUMS),
    Fault(J + "levels.py", "NONE_OF_GRID * grid_ms", "NONE_OF_GRID * 2 * grid_ms", MARKS),
    Fault(J + "timing.py", "(judged < 0, Why.EARLY)", "(judged > 0, Why.EARLY)", SUMS),
    Fault(J + "judge.py", "NOTES_CEILING = (45.0, 0.55)", "NOTES_CEILING = (55.0, 0.45)", MARKS),
    Fault(J + "judge.py", "TIMING_CEILING = (20.0, 0.8)", "TIMING_CEILING = (30.0, 0.8)", MARKS),
    Fault(J + "judge.py", "capped - cost - late)", "capped - late)", "tests.ear.test_rubrics tests.ear.test_sums"),
    Fault(J + "credits.py", "(none - size) / (none - full), 0.0, 1.0)", "(none - size) / none, 0.0, 1.0)", SUMS),
    Fault(J + "pedal.py", "LATE_FULL_MS, LATE_NONE_MS = 200.0, 450.0", "LATE_FULL_MS, LATE_NONE_MS = 250.0, 450.0", "tests.ear.test_pedal"),
    Fault(J + "pedal.py", "if not facts.take.has_pedal:", "if False:", "tests.ear.test_pedal"),
    # what is measured
    Fault(M + "pedal.py", "if point.move is PedalMove.UP and was_dry", "if point.move is PedalMove.UP and False", "tests.ear.test_pedal"),
    Fault(M + "pedal.py", "own[k] = float(np.median(there))", "pass", "tests.ear.test_pedal"),
    Fault(M + "dynamics.py", "lane * 128 + written", "written", LISTEN + " tests.ear.test_sums"),
    Fault(M + "dynamics.py", "float(velocity[accented].mean() - velocity[~accented].mean())", "float(velocity[~accented].mean() - velocity[accented].mean())", LISTEN),
    Fault(M + "figures.py", "MAD_TO_SD = 1.4826", "MAD_TO_SD = 1.0", LISTEN),
    Fault(M + "fairness.py", "SAME_MS = 1.0", "SAME_MS = 30.0", "tests.ear.test_sums"),
    Fault(M + "fairness.py", "OFFSETS = range(-8, 9)", "OFFSETS = range(0, 1)", LISTEN),
    Fault(M + "linked.py", "ratio[_held_by_pedal(take, take_s + sounded_s)] = np.nan", "pass", LISTEN + " tests.ear.test_sums"),
    Fault("src/ear/progress/trend.py", "** 2)) / (n - 2))", "** 2)) / n)", "tests.ear.test_sums"),
    Fault("src/ear/progress/trend.py", "chance=student_t(n - 2) * error", "chance=student_t(n) * error", "tests.ear.test_sums"),
    Fault(F + "time_rules.py", "/ (1.0 + rate / bar_ms)", "/ (1.0 - rate / bar_ms)", "tests.ear.test_sums"),
    Fault(F + "pedal_rules.py", '"pedal_late" if middle > 0', '"pedal_late" if middle < 0', "tests.ear.test_pedal"),
    Fault(F + "touch_rules.py", "FLAT_BELOW = 0.35", "FLAT_BELOW = 0.0", LISTEN),
    # what is read, written and kept
    Fault(X + "part_json.py", 'cues=[alike(n, _NoteRow) for n in part.cues],', 'cues=[],', "tests.ear.test_formats tests.ear.test_editing tests.ear.test_pedal tests.ear.test_sums"),
    Fault(
        X + "part_json.py", "pedal=[(mark.start_tick, mark.end_tick) for mark in part.pedal],", "pedal=[],",
        "tests.ear.test_formats tests.ear.test_editing tests.ear.test_pedal tests.ear.test_sums",
    ),
    Fault(X + "smf_writing.py", "return tick, 1 if message.value else 0", "return tick, 0 if message.value else 1", "tests.ear.test_pedal"),
    Fault(X + "smf_parts.py", "count_in_bars * part.meters.first.bar_quarters", "count_in_bars * 4", "tests.ear.test_formats tests.ear.test_sums"),
    Fault(X + "sounding.py", "PEDAL_DOWN_FROM = 64", "PEDAL_DOWN_FROM = 1", "tests.ear.test_formats tests.ear.test_recording tests.ear.test_sums"),
    Fault(X + "musicxml/directions.py", 'in ("stop", "change", "discontinue")', 'in ("stop", "discontinue")', "tests.ear.test_pedal"),
    Fault(R + "passes.py", "(time - self.latency_ms, status", "(time, status", "tests.ear.test_recording"),
    Fault(R + "as_set.py", "one.latency_ms + moved", "one.latency_ms", "tests.ear.test_recording tests.ear.test_sums"),
    Fault(R + "latency.py", "used = offs[np.abs(offs - middle) <= OUTLIER_SPREADS * spread]", "used = offs", "tests.ear.test_recording"),
    Fault("src/ear/notes/kit.py", 'Lane(name="hat", pitches=(42, 44)', 'Lane(name="hat", pitches=(42,)', "tests.ear.test_notes tests.ear.test_sums"),
    Fault("src/ear/notes/kit.py", 'Lane(name="kick", pitches=(36, 35)', 'Lane(name="kick", pitches=(36,)', "tests.ear.test_notes tests.ear.test_sums"),
    Fault("src/ear/notes/instrument.py", "has_lanes=True, has_key=False", "has_lanes=True, has_key=True", "tests.ear.test_editing tests.ear.test_matching"),
    Fault("src/ear/facts/codec.py", 'if data.get("schema") == SCHEMA:', "if True:", "tests.ear.test_facts"),
    Fault(E + "bars.py", "replace(c, tick=c.tick + room) if c.tick >= start", "replace(c, tick=c.tick) if c.tick >= start", "tests.ear.test_editing"),
    Fault(E + "pedal.py", "max(mark.start_tick, end)", "mark.start_tick", "tests.ear.test_pedal"),
    Fault(E + "transpose.py", "any(not PITCH_MIN <= n.pitch + semitones <= PITCH_MAX for n in picked)", "False", "tests.ear.test_editing"),
    # matching
    Fault("src/ear/matching/matcher.py", 'part.instrument.has_key', 'True', "tests.ear.test_facts"),
    Fault("src/ear/notes/ornament.py", 'return mark is played or any(mark in sort and played in sort for sort in (BEFORE, ABOUT))', 'return True', "tests.ear.test_troubles"),
    Fault("src/ear/matching/overlaid.py", 'return float(ahead.mean()) >= BEFORE_SHARE or', 'return False and', "tests.ear.test_troubles"),
    Fault("src/ear/matching/slips.py", 'whole.sum() < 2', 'whole.sum() < 10 ** 9', "tests.ear.test_troubles"),
    Fault("src/ear/matching/runs.py", 'grid.met if is_ahead else', 'grid.earned if is_ahead else', "tests.ear.test_troubles"),
    Fault("src/ear/findings/progress_rules.py", "EVENLY * rise", "rise", "tests.ear.test_listening"),
    Fault("src/oido/takes/judging.py", "COMPARED_WITH = 2", "COMPARED_WITH = 1", "tests.oido.test_takes"),
    Fault("src/ear/matching/landings.py", 'np.nan, -1', 'shift_before, before', "tests.ear.test_troubles"),
    Fault("src/ear/judging/settings.py", ', tuple(sorted(self.landings.items()))', '', "tests.oido.test_sayings"),
    Fault("src/ear/matching/match.py", 'in_place = found.path.score', 'in_place = found.worth', "tests.ear.test_troubles"),
    Fault("src/ear/findings/causes.py", 'nearest = float(sizes[np.argmin(np.abs(sizes + bias_ms))])', 'nearest = 0.0', "tests.ear.test_troubles"),
    Fault("src/ear/measuring/figures.py", 'return robust_spread(values) / (1.0 - small / len(values))', 'return robust_spread(values)', "tests.ear.test_troubles"),
    Fault("src/ear/matching/pace_fit.py", 'STRETCH_PRICE, BEND_PRICE = 30.0, 12.0', 'STRETCH_PRICE, BEND_PRICE = 4.0, 1.0', "tests.ear.test_tempo"),
    Fault("src/ear/matching/pace_fit.py", 'found[len(owner) :] - edges[0] * slow[0, 0])', 'found[len(owner) :])', "tests.ear.test_tempo"),
    Fault("src/ear/measuring/tempo.py", '60.0 * (last - first) / seconds', '60.0', "tests.ear.test_tempo"),
    Fault("src/ear/practice/rules.py", 'min(self.least_bars, bars // 2)', 'self.least_bars', "tests.browser.test_stand"),
    Fault("src/ear/findings/note_rules.py", '"cut_off" if c.ending.is_mishap', '"cut_off" if False', "tests.browser.test_stand"),
    Fault("src/ear/findings/time_rules.py", "max(spread, common), count", "spread, count", "tests.ear.test_listening"),
    Fault("src/ear/drawing/in_words.py", "if head.note not in seen", "if True", "tests.ear.test_in_words"),
    Fault("src/ear/notes/folding.py", "or _lasts_over_a_jump(part)", "", "tests.ear.test_musicxml"),
    Fault("src/oido/takes/stand_settings.py", "kept[name][0] <= at", "True", "tests.oido.test_stand_settings"),
    Fault("src/oido/takes/services.py", "1 + sum(bool(one.events) for one in take.kept_passes)", "1 + len(take.kept_passes)", "tests.browser.test_stand"),
    # the Stand's scripts
    Fault(S + "follower.js", "this.strays.length >= LOST", "this.strays.length >= 99", "scripts"),
    Fault(S + "in_words.js", "way > 0 ? k : firstOf", "true ? k : firstOf", "scripts"),
    Fault(S + "settings.js", "found[name][0] < kept[0]", "true", "scripts"),
    Fault(S + "machine.js", 'recording: { begin: "recording", kept', 'recording: { stop: "idle", begin: "recording", kept', "scripts"),
    Fault(S + "machine.js", 'return SOUNDS.has(state) ? "stopSound" : "hear";', 'return "hear";', "scripts"),
    Fault(S + "machine.js", "if (next !== before) this.onChange", "this.onChange", "scripts"),
    Fault(S + "clock.js", "if (isStep && this.samples.length > STEP_SAMPLES) this.samples = last;", "", "scripts"),
    Fault(S + "clock.js", "sorted[middle] : (sorted", "sorted[0] : (sorted", "scripts"),
    Fault(S + "along.js", "velocity * level", "velocity", "scripts"),
    Fault(S + "along.js", 'onset < from || onset >= until', "onset < from", "scripts"),
    Fault(S + "asked.js", "number(\"percent\", 100)) / 100", "number(\"percent\", 100))", "scripts"),
    Fault("src/oido/common/static/common/js/signed_out.js", "await signedInAgain();\n  return ask(url, how);", "return response;", "scripts"),
)  # fmt: skip
