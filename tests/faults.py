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


C = "src/ear/criteria/"
J, M, F, R, E, X = (
    "src/ear/judging/",
    "src/ear/measuring/",
    "src/ear/findings/",
    "src/ear/recording/",
    "src/ear/editing/",
    "src/ear/formats/",
)
S, W = "src/oido/stand/static/stand/js/", "src/oido/"
P = "src/oido/common/static/common/js/playing/"
PEOPLE = "tests.oido.test_roster tests.oido.test_people tests.oido.test_permissions tests.oido.test_authority"
GIVEN = "tests.oido.test_giving tests.oido.test_gradebook tests.oido.test_booklets"
BOOK = "tests.oido.test_gradebook"
LIBRARY = "tests.oido.test_library"
MARKED = "tests.oido.test_marking tests.oido.test_desk tests.oido.test_giving tests.oido.test_overrides tests.oido.test_judgements"
HABITS = "tests.ear.test_habits"
SUMS, MARKS, LISTEN = (
    "tests.ear.test_sums",
    "tests.ear.test_sums tests.ear.test_marks",
    "tests.ear.test_listening",
)

FAULTS = (
    # pedal and wheels
    Fault(
        "src/ear/notes/controls.py", "max(0, begun - 1) : ended", "begun : ended", "tests.ear.test_controls"
    ),
    Fault(
        "src/ear/drawing/rows.py",
        "BAR_LINE_SLACK_TICKS = 60",
        "BAR_LINE_SLACK_TICKS = 0",
        "tests.ear.test_controls",
    ),
    Fault(
        "src/ear/drawing/page.py",
        "lowest = wheels[-1].bottom + WHEEL_GAP if wheels else lowest",
        "lowest += 0.0",
        "tests.ear.test_controls",
    ),
    Fault(
        X + "events.py",
        "BEND_LOWEST if steps < 0 else BEND_LOWEST - 1",
        "BEND_LOWEST",
        "tests.ear.test_controls",
    ),
    # what criteria cost
    Fault(
        C + "dynamics/scoring.py",
        "TOUCH_FULL, TOUCH_NONE = 16.0, 46.0",
        "TOUCH_FULL, TOUCH_NONE = 16.0, 60.0",
        SUMS,
    ),
    Fault(
        C + "dynamics/scoring.py",
        "TOUCH_FULL, TOUCH_NONE = 16.0, 46.0",
        "TOUCH_FULL, TOUCH_NONE = 26.0, 46.0",
        SUMS,
    ),
    Fault(C + "dynamics/scoring.py", "ACCENT_SHARE = 0.7", "ACCENT_SHARE = 0.5", SUMS),
    Fault(C + "dynamics/scoring.py", "ACCENT_FULL = 0.7", "ACCENT_FULL = 0.9", SUMS),
    Fault(C + "dynamics/scoring.py", "LEVEL_FORGIVEN = 15.0", "LEVEL_FORGIVEN = 0.0", SUMS),
    Fault(C + "length.py", "NONE_OCTAVES = 0.3, 1.6", "NONE_OCTAVES = 0.3, 2.6", SUMS),
    Fault(
        C + "length.py",
        "FULL_OCTAVES, NONE_OCTAVES = 0.3",
        "FULL_OCTAVES, NONE_OCTAVES = 0.6",
        SUMS,
    ),
    Fault(
        C + "length.py",
        "np.where(held | seen.right, 1.0, nan_as_zero(credits))",
        "np.where(seen.right, 1.0, nan_as_zero(credits))",
        SUMS,
    ),
    Fault(C + "flow/scoring.py", "SlipKind.RESTART: 30.0", "SlipKind.RESTART: 15.0", SUMS),
    Fault(C + "flow/scoring.py", "SlipKind.SKIP_BAR: 26.0", "SlipKind.SKIP_BAR: 22.0", SUMS),
    Fault(C + "flow/scoring.py", "SlipKind.LATE_START: 12.0", "SlipKind.LATE_START: 15.0", SUMS),
    Fault(C + "flow/scoring.py", "SlipKind.RECOVERY: 5.0", "SlipKind.RECOVERY: 22.0", SUMS),
    Fault(C + "flow/scoring.py", "UNFINISHED_COST = 100.0", "UNFINISHED_COST = 50.0", SUMS),
    Fault(C + "flow/scoring.py", "abs(slip.beats) * 60.0", "slip.beats * 60.0", SUMS),
    Fault(
        C + "notes/scoring.py",
        "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25",
        "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 1.0, 0.25",
        SUMS,
    ),
    Fault(
        C + "notes/scoring.py",
        "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25",
        "DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.5",
        SUMS,
    ),
    Fault(C + "notes/scoring.py", "if n in free or not", "if not", SUMS),
    Fault(C + "notes/scoring.py", "(100.0 - floor_percent))", "100.0)", SUMS),
    Fault(C + "levels.py", "beside_share=0.5, floor_percent=50", "beside_share=0.6, floor_percent=50", MARKS),
    Fault(
        C + "levels.py",
        "window=Window(full_ms=40, none_ms=120)",
        "window=Window(full_ms=50, none_ms=120)",
        SUMS,
    ),
    Fault(C + "levels.py", "NONE_OF_ROOM * room_ms", "NONE_OF_ROOM * 2 * room_ms", MARKS),
    Fault(C + "timing/scoring.py", "apart, judged) < 0, EARLY)", "apart, judged) > 0, EARLY)", SUMS),
    Fault(C + "notes/criterion.py", "least=45.0,", "least=55.0,", MARKS),
    Fault(C + "timing/criterion.py", "least=20.0,", "least=30.0,", MARKS),
    Fault(
        J + "judge.py",
        "capped - cost - late)",
        "capped - late)",
        "tests.ear.test_rubrics tests.ear.test_sums",
    ),
    Fault(
        C + "credits.py", "(none - size) / width, 0.0, 1.0)", "(none - size) / none, 0.0, 1.0)", SUMS
    ),
    Fault(
        C + "pedal.py",
        "LATE_FULL_MS, LATE_NONE_MS = 200.0, 450.0",
        "LATE_FULL_MS, LATE_NONE_MS = 250.0, 450.0",
        "tests.ear.test_pedal",
    ),
    Fault(C + "pedal.py", "if not facts.take.has_pedal:", "if False:", "tests.ear.test_pedal"),
    # what is measured
    Fault(
        M + "pedal.py",
        "if point.move is PedalMove.UP and was_dry",
        "if point.move is PedalMove.UP and False",
        "tests.ear.test_pedal",
    ),
    Fault(M + "pedal.py", "own[k] = float(np.median(there))", "pass", "tests.ear.test_pedal"),
    Fault(M + "dynamics.py", "lane * 128 + written", "written", LISTEN + " tests.ear.test_sums"),
    Fault(
        M + "dynamics.py",
        "float(velocity[accented].mean() - velocity[~accented].mean())",
        "float(velocity[~accented].mean() - velocity[accented].mean())",
        LISTEN,
    ),
    Fault("src/ear/matching/fit.py", "MAD_TO_SD = 1.4826", "MAD_TO_SD = 1.0", LISTEN),
    Fault(M + "fairness.py", "SAME_MS = 1.0", "SAME_MS = 30.0", "tests.ear.test_sums"),
    Fault(M + "fairness.py", "OFFSETS = range(-8, 9)", "OFFSETS = range(0, 1)", LISTEN),
    Fault(
        M + "linked.py",
        "ratio[_held_by_pedal(take, take_s + sounded_s)] = np.nan",
        "pass",
        LISTEN + " tests.ear.test_sums",
    ),
    Fault("src/ear/progress/trend.py", "** 2)) / (n - 2))", "** 2)) / n)", "tests.ear.test_sums"),
    Fault(
        "src/ear/progress/trend.py",
        "chance=student_t(n - 2) * error",
        "chance=student_t(n) * error",
        "tests.ear.test_sums",
    ),
    Fault(C + "timing/rules.py", "/ (1.0 + rate / bar_ms)", "/ (1.0 - rate / bar_ms)", "tests.ear.test_sums"),
    Fault(
        C + "pedal.py",
        "PedalLate if middle > 0",
        "PedalLate if middle < 0",
        "tests.ear.test_pedal",
    ),
    Fault(C + "dynamics/rules.py", "FLAT_BELOW = 0.35", "FLAT_BELOW = 0.0", LISTEN),
    # what is read, written and kept
    Fault(
        X + "part_json.py",
        'plain["cues"] = [_note_row(n) for n in part.cues]',
        'plain["cues"] = []',
        "tests.ear.test_formats tests.ear.test_editing tests.ear.test_pedal tests.ear.test_sums",
    ),
    Fault(
        X + "part_json.py",
        "pedal=[(mark.start_tick, mark.end_tick) for mark in part.pedal],",
        "pedal=[],",
        "tests.ear.test_formats tests.ear.test_editing tests.ear.test_pedal tests.ear.test_sums",
    ),
    Fault(
        X + "smf_writing.py",
        "return tick, 1 if message.value else 0",
        "return tick, 0 if message.value else 1",
        "tests.ear.test_pedal",
    ),
    Fault(
        X + "smf_parts.py",
        "count_in_bars * part.meters.first.bar_quarters",
        "count_in_bars * 4",
        "tests.ear.test_formats tests.ear.test_sums",
    ),
    Fault(
        X + "sounding.py",
        "PEDAL_DOWN_FROM = 64",
        "PEDAL_DOWN_FROM = 1",
        "tests.ear.test_formats tests.ear.test_recording tests.ear.test_sums",
    ),
    Fault(
        X + "musicxml/directions.py",
        'in ("stop", "change", "discontinue")',
        'in ("stop", "discontinue")',
        "tests.ear.test_pedal",
    ),
    Fault(R + "passes.py", "(time - self.latency_ms, status", "(time, status", "tests.ear.test_recording"),
    Fault(
        R + "take_settings.py",
        "one.latency_ms + moved",
        "one.latency_ms",
        "tests.ear.test_recording tests.ear.test_sums",
    ),
    Fault(
        R + "latency.py",
        "used = offs[np.abs(offs - middle) <= OUTLIER_SPREADS * spread]",
        "used = offs",
        "tests.ear.test_recording",
    ),
    Fault(
        "src/ear/notes/kit.py",
        'Lane(name=term("hat"), pitches=(42, 44)',
        'Lane(name=term("hat"), pitches=(42,)',
        "tests.ear.test_notes tests.ear.test_sums",
    ),
    Fault(
        "src/ear/notes/kit.py",
        'Lane(name=term("kick"), pitches=(36, 35)',
        'Lane(name=term("kick"), pitches=(36,)',
        "tests.ear.test_notes tests.ear.test_sums",
    ),
    Fault(
        "src/ear/notes/instrument.py",
        "has_lanes=True, has_key=False",
        "has_lanes=True, has_key=True",
        "tests.ear.test_editing tests.ear.test_matching",
    ),
    Fault("src/ear/extraction/codec.py", 'or data.get("schema") != SCHEMA:', ":", "tests.ear.test_facts"),
    Fault(
        E + "bars.py",
        "replace(c, tick=c.tick + room) if c.tick >= start",
        "replace(c, tick=c.tick) if c.tick >= start",
        "tests.ear.test_editing",
    ),
    Fault(E + "pedal.py", "max(mark.start_tick, end)", "mark.start_tick", "tests.ear.test_pedal"),
    Fault(
        E + "transpose.py",
        "any(not MIN_PITCH <= n.pitch + semitones <= MAX_PITCH for n in picked)",
        "False",
        "tests.ear.test_editing",
    ),
    # matching
    Fault("src/ear/matching/matcher.py", "part.instrument.has_key", "True", "tests.ear.test_facts"),
    Fault(
        "src/ear/notes/ornament.py",
        "return mark is played or any(mark in sort and played in sort for sort in (BEFORE, ABOUT))",
        "return True",
        "tests.ear.test_troubles",
    ),
    Fault(
        "src/ear/matching/overlaid.py",
        "return float(ahead.mean()) >= BEFORE_SHARE or",
        "return False and",
        "tests.ear.test_troubles",
    ),
    Fault("src/ear/matching/slips.py", "whole.sum() < 2", "whole.sum() < 10 ** 9", "tests.ear.test_troubles"),
    Fault(
        "src/ear/matching/runs.py",
        "grid.met if is_ahead else",
        "grid.earned if is_ahead else",
        "tests.ear.test_troubles",
    ),
    Fault("src/ear/findings/progress.py", "EVENLY * rise", "rise", "tests.ear.test_listening"),
    Fault("src/oido/takes/judging.py", "COMPARED_WITH = 2", "COMPARED_WITH = 1", "tests.oido.test_takes"),
    Fault("src/ear/matching/landings.py", "np.nan, -1", "shift_before, before", "tests.ear.test_troubles"),
    Fault(
        "src/ear/judging/settings.py",
        "tuple(sorted(self.landings.items())),",
        "",
        "tests.oido.test_overrides",
    ),
    Fault(
        "src/ear/matching/match.py",
        "in_place = hypothesis.path.score",
        "in_place = found.worth",
        "tests.ear.test_troubles",
    ),
    Fault(
        "src/ear/findings/causes.py",
        "nearest = float(sizes[np.argmin(np.abs(sizes + bias_ms))])",
        "nearest = 0.0",
        "tests.ear.test_troubles",
    ),
    Fault(
        "src/ear/measuring/figures.py",
        "return robust_spread(values) / (1.0 - small / len(values))",
        "return robust_spread(values)",
        "tests.ear.test_troubles",
    ),
    Fault(
        "src/ear/matching/pace_division.py",
        "STRETCH_PRICE, BEND_PRICE = 30.0, 12.0",
        "STRETCH_PRICE, BEND_PRICE = 4.0, 1.0",
        "tests.ear.test_tempo",
    ),
    Fault(
        "src/ear/matching/pace_fit.py",
        "solution[len(owner) :] - edges[0] * slow[0, 0])",
        "solution[len(owner) :])",
        "tests.ear.test_tempo",
    ),
    Fault("src/ear/measuring/tempo.py", "60.0 * (last - first) / seconds", "60.0", "tests.ear.test_tempo"),
    Fault(
        "src/ear/practice/rules.py",
        "min(self.least_bars, bars // 2)",
        "self.least_bars",
        "tests.ear.test_practice",
    ),
    Fault(
        "src/ear/criteria/notes/rules.py",
        "if c.ending.is_mishap:",
        "if False:",
        "tests.browser.test_stand",
    ),
    Fault(
        "src/ear/criteria/timing/rules.py",
        "max(spread, common), count",
        "spread, count",
        "tests.ear.test_listening",
    ),
    Fault("src/ear/notation/moments.py", "if head.note not in seen", "if True", "tests.ear.test_in_words"),
    Fault("src/ear/notes/folding.py", "or _lasts_over_a_jump(part)", "", "tests.ear.test_musicxml"),
    Fault(
        "src/oido/takes/at_stand.py", "kept[name][0] <= at", "True", "tests.oido.test_stand_settings"
    ),
    Fault(
        "src/oido/takes/services.py",
        "1 + sum(bool(one.events) for one in take.kept_passes)",
        "1 + len(take.kept_passes)",
        "tests.oido.test_takes",
    ),
    # who is in a school and in its classes
    Fault(W + "roster/people.py", "if before == Role.HEAD and heads <= {person.pk}:", "if False:", PEOPLE),
    Fault(
        W + "roster/people.py", "if member.role == Role.HEAD and heads <= {person.pk}:", "if False:", PEOPLE
    ),
    Fault(W + "roster/people.py", "if not by.is_head and locked.teachers.count() == 1:", "if False:", PEOPLE),
    Fault(
        W + "roster/people.py",
        "if not Membership.everywhere.filter(person=person, left_at=None).exists():",
        "if False:",
        PEOPLE,
    ),
    Fault(W + "roster/people.py", "or into.archived_at is not None", "", PEOPLE),
    Fault(W + "roster/classes.py", "name__iexact=name", 'name=name + "!"', PEOPLE),
    Fault(W + "roster/classes.py", "made.students.set(school_class.students.all())", "pass", PEOPLE),
    Fault(
        W + "roster/joining.py",
        "if not locked.is_open:\n        raise NotAllowed\n    person = _account_of(who)\n    if _member",
        "person = _account_of(who)\n    if _member",
        PEOPLE,
    ),
    Fault(W + "roster/joining.py", "locked.accepted_by = person", "pass", PEOPLE),
    Fault(W + "roster/importing.py", "if locked.state != State.LOOKED:", "if False:", PEOPLE),
    Fault(
        W + "roster/importing.py",
        "decided.get(row.number, LEAVE_OUT)",
        "decided.get(row.number, AS_NEW)",
        PEOPLE,
    ),
    Fault(
        W + "roster/importing.py",
        "for name, (value, _) in changes.items()} | earlier",
        "for name, (value, _) in changes.items()}",
        PEOPLE,
    ),
    Fault(W + "roster/importing.py", "busy = Q(last_login__isnull=False) | Q(", "busy = Q(", PEOPLE),
    Fault(
        W + "roster/planning.py",
        "if free and not listed.source_id and times == len(in_class):",
        "if free:",
        PEOPLE,
    ),
    Fault(
        W + "roster/planning.py",
        "needs_head = not self._by.is_head and not",
        "needs_head = False and not",
        PEOPLE,
    ),
    Fault(
        W + "people/authority.py",
        "relations -= {Relation.HEAD, Relation.CLASS_TEACHER, Relation.OTHER_TEACHER}",
        "pass",
        PEOPLE,
    ),
    Fault(
        W + "people/authority.py",
        "Change.EMAIL: frozenset({_O, _C, _H}),",
        "Change.EMAIL: frozenset({_O, _C, _T, _H}),",
        PEOPLE,
    ),
    Fault(W + "people/authority.py", "schoolclass__archived_at=None,", "", PEOPLE),
    Fault(W + "people/authority.py", "and role == Role.STUDENT", "", PEOPLE),
    Fault(
        W + "people/queries.py",
        "if not user.is_teacher or school_class.school_id != user.school_id:",
        "if not user.is_teacher:",
        PEOPLE,
    ),
    # what was given, and to whom
    Fault(
        W + "assignments/student_terms.py",
        "and self.due_at < self.joined_at and not is_named",
        "and self.due_at < self.joined_at",
        GIVEN,
    ),
    Fault(
        W + "assignments/student_terms.py",
        "return (at - self.due_at).days + 1 if",
        "return (at - self.due_at).days if",
        GIVEN,
    ),
    Fault(
        W + "assignments/student_terms.py",
        "return assignment.late != Late.REFUSED or not self.is_late(at)",
        "return True",
        GIVEN,
    ),
    Fault(
        W + "assignments/student_terms.py",
        "least = own.least_takes if attempts is None else min(own.least_takes, attempts)",
        "least = own.least_takes",
        GIVEN,
    ),
    Fault(
        W + "assignments/queries.py", "student not in row.handed_in_by and terms_table", "terms_table", GIVEN
    ),
    Fault(W + "assignments/queries.py", "if not any(decided):", "if not any(decided[:2]):", GIVEN),
    Fault(W + "assignments/queries.py", "if student not in erased)", ")", GIVEN),
    Fault(W + "assignments/services.py", "if assignment.exercise_id in has:", "if False:", GIVEN),
    Fault(W + "assignments/services.py", "if student.pk in lately or", "if", GIVEN),
    Fault(
        W + "assignments/services.py", "is_fit = version.school_id == locked.school_id and", "is_fit =", GIVEN
    ),
    # marks, and what a gradebook makes of them
    Fault(W + "gradebook/book.py", "MISSING if student_terms.is_late(now) else OPEN", "OPEN", BOOK),
    Fault(
        W + "gradebook/book.py",
        "sum(sheet.points * out_of / sheet.out_of for sheet in sheets) / len(sheets)",
        "sheets[0].points",
        BOOK,
    ),
    Fault(
        W + "gradebook/book.py",
        "if self.state == MISSING:\n            return 0.0",
        "if False:\n            return 0.0",
        BOOK,
    ),
    Fault(W + "gradebook/services.py", "not 0 <= points <= out_of", "not 0 <= points", BOOK),
    Fault(
        W + "gradebook/services.py",
        ".filter(points__gt=out_of).exists()",
        ".filter(points__gt=10 ** 6).exists()",
        BOOK,
    ),
    Fault("src/ear/judging/means.py", "if one.weight > 0)", "if one.weight >= 0)", "tests.ear.test_means"),
    Fault(
        "src/ear/judging/means.py",
        "for one in counted) / whole))",
        "for one in counted) / len(counted)))",
        "tests.ear.test_means",
    ),
    Fault(
        W + "marking/history.py",
        "if change.is_undone or now != change.after:",
        "if change.is_undone:",
        MARKED,
    ),
    Fault(W + "marking/history.py", "if was_shown and sheet.seen_at is not None:", "if False:", MARKED),
    Fault(W + "marking/history.py", "if shown is None or shown == state_of(take):", "if True:", MARKED),
    Fault(
        W + "marking/services.py",
        "if sheet.is_released:\n        raise NotAllowed",
        "if False:\n        raise NotAllowed",
        MARKED,
    ),
    Fault(
        W + "marking/services.py",
        "if not sheet.is_whole:\n        raise NotMarkedYet",
        "if False:\n        raise NotMarkedYet",
        MARKED,
    ),
    Fault(
        W + "marking/services.py",
        "if locked.exercise.owner_id != teacher.pk and not teacher.is_head:",
        "if False:",
        MARKED,
    ),
    Fault(
        W + "marking/sheets.py",
        "charged=days if take.assignment.late == Late.COSTS else 0",
        "charged=days",
        MARKED,
    ),
    Fault(W + "marking/sheets.py", "0 if asked.exists() else get_student_terms", "get_student_terms", MARKED),
    Fault(
        W + "marking/hand_in.py",
        "if of_exercise.count() < rules.least_takes:",
        "if False:",
        "tests.oido.test_takes",
    ),
    Fault(
        W + "marking/hand_in.py",
        "if not sheet.is_released and judged(take).is_readable:",
        "if judged(take).is_readable:",
        MARKED,
    ),
    Fault(
        W + "marking/queue.py",
        "if any(abs(mark.total - border) <= BORDER for border in borders):",
        "if False:",
        MARKED,
    ),
    # what is drawn of grace notes, and the trail
    Fault(
        "src/ear/notation/graces.py",
        "main.pitch + main.grace_semitones",
        "main.pitch",
        "tests.ear.test_musicxml",
    ),
    Fault(
        "src/ear/notation/written.py", "if head.grace is not None:", "if False:", "tests.ear.test_notation"
    ),
    Fault(
        "src/ear/formats/musicxml/reading.py",
        "if is_usual or abs(semitones) > MAX_GRACE else semitones",
        "",
        "tests.ear.test_musicxml",
    ),
    Fault(W + "audit/views.py", ".exclude(at=last.at, pk__gte=last.pk)", "", "tests.oido.test_roster"),
    Fault(W + "audit/views.py", "list(acts[: PAGE + 1])", "list(acts[:PAGE])", "tests.oido.test_roster"),
    # jobs
    Fault(W + "jobs/services.py", "if not taken:", "if False:", "tests.oido.test_jobs"),
    Fault(W + "jobs/services.py", "if job.tries < kind.tries:", "if True:", "tests.oido.test_jobs"),
    Fault(
        W + "jobs/services.py",
        "is_last = kind is None or job.tries >= kind.tries",
        "is_last = kind is None",
        "tests.oido.test_jobs",
    ),
    Fault(
        W + "jobs/services.py",
        "is_lost = Q(beat_at__isnull=True, made_at__lt=before) | Q(beat_at__lt=before)",
        "is_lost = Q(beat_at__lt=before)",
        "tests.oido.test_jobs",
    ),
    Fault(
        W + "jobs/services.py",
        "User.objects.select_for_update().get(pk=owner.pk)",
        "pass",
        "tests.oido.test_jobs",
    ),
    Fault(
        W + "jobs/services.py",
        "with _beating(pk), _scope_of(job):",
        "with _scope_of(job):",
        "tests.oido.test_jobs",
    ),
    Fault(
        W + "jobs/schedule.py", "made_at__gte=since", "made_at__gte=timezone.now()", "tests.oido.test_jobs"
    ),
    # the Stand's scripts
    Fault(S + "follower.js", "this.strays.length >= LOST", "this.strays.length >= 99", "scripts"),
    Fault(S + "in_words.js", "way > 0 ? k : firstOf", "true ? k : firstOf", "scripts"),
    Fault(S + "settings.js", "settings[name][0] < kept[0]", "true", "scripts"),
    Fault(
        S + "machine.js",
        'recording: { begin: "recording", kept',
        'recording: { stop: "idle", begin: "recording", kept',
        "scripts",
    ),
    Fault(
        S + "machine.js",
        'return SOUNDS.has(state) || state === "preparing" ? "stopSound" : "hear";',
        'return "hear";',
        "scripts",
    ),
    Fault(S + "machine.js", "if (next !== before) this.onChange", "this.onChange", "scripts"),
    Fault(
        S + "machine.js",
        'return this.machine.current === this && this.machine.state === "preparing";',
        'return this.machine.state === "preparing";',
        "scripts",
    ),
    Fault(
        S + "machine.js",
        'if (isRecording) return withShift ? "" : "again";',
        'if (isRecording) return "again";',
        "scripts",
    ),
    Fault(
        S + "machine.js",
        'return state === "practising" ? "stopSound" : "practise";',
        'return "practise";',
        "scripts",
    ),
    Fault(P + "recorder.js", "if (timeMs < this.keepFromMs) return;", "", "scripts"),
    Fault(P + "recorder.js", "to = went.get(data1) ?? to;", "", "scripts"),
    Fault(P + "recorder.js", "return apart > DISTURBED_MS ? apart : 0;", "return 0;", "scripts"),
    Fault(P + "recorder.js", "if (this.stoppedAt < this.beginning) this.events = [];", "", "scripts"),
    Fault(P + "recorder.js", "if (!this.isVoid) this.listeners.onRound", "this.listeners.onRound", "scripts"),
    Fault(
        P + "recorder.js",
        "return this.bars.filter((bar) => bar.end <= this.stoppedAt).length;",
        "return this.bars.length;",
        "scripts",
    ),
    Fault(
        P + "recorder.js",
        "return events.map(([time, ...bytes]) => [time - later, ...bytes]);",
        "return events;",
        "scripts",
    ),
    Fault(
        P + "clock.js",
        "if (isStep && this.samples.length > STEP_SAMPLES) this.samples = last;",
        "",
        "scripts",
    ),
    Fault(P + "clock.js", "sorted[middle] : (sorted", "sorted[0] : (sorted", "scripts"),
    Fault(S + "along.js", "velocity * level", "velocity", "scripts"),
    Fault(S + "along.js", "onset < from || onset >= until", "onset < from", "scripts"),
    Fault(S + "asked.js", 'number("percent", 100)) / 100', 'number("percent", 100))', "scripts"),
    Fault(
        "src/oido/common/static/common/js/signed_out.js",
        "await signedInAgain();\n  return ask(url, how);",
        "return response;",
        "scripts",
    ),
    # what the machine gates
    Fault(S + "machine.js", "if (over) this.current = null;", "", "scripts"),
    Fault(S + "machine.js", "over?.end(happening);", "", "scripts"),
    Fault(
        S + "machine.js",
        'this.end("fail");\n    return false;\n  }\n\n  /** It could',
        "return false;\n  }\n\n  /** It could",
        "scripts",
    ),
    Fault(S + "machine.js", "if (this.isOver) return;", "", "scripts"),
    Fault(S + "hearing.js", 'if (!attempt.begin("hear")) return;', 'attempt.begin("hear");', "scripts"),
    Fault(S + "hearing.js", "player.data = data;\n    cursor.bars", "cursor.bars", "scripts"),
    Fault(S + "hearing.js", 'if (what === "target") this.isHeard();', "", "scripts"),
    Fault(
        S + "hearing.js",
        "if (attempt.fail()) say(noSound(error));",
        "attempt.fail(); say(noSound(error));",
        "scripts",
    ),
    Fault(
        S + "by_ear.js",
        "this.hearing ||= crypto.randomUUID();",
        "this.hearing = crypto.randomUUID();",
        "scripts",
    ),
    Fault(S + "by_ear.js", "if (!attempt.isWanted) return;", "", "scripts"),
    Fault(S + "by_ear.js", 'attempt.isCurrent && machine.tell("stop")', 'machine.tell("stop")', "scripts"),
    Fault(S + "practising.js", "if (!attempt.isWanted) return;", "", "scripts"),
    Fault(S + "practising.js", "this.practice.stop();", "", "scripts"),
    Fault(S + "practising.js", "answer.isClean ? this.cleanLoops + 1 : 0", "this.cleanLoops + 1", "scripts"),
    Fault(S + "practice.js", "if (!this.isOn || this.chosen !== chosen) return;", "", "scripts"),
    Fault(S + "practice.js", "if (this.isOn) this.listeners.onJudged", "this.listeners.onJudged", "scripts"),
    Fault(S + "practice.js", "at(timeStamp) > loop.start - BEFORE_S", "true", "scripts"),
    Fault(S + "practice.js", "(played * this.current.bpm) / this.data.bpm", "played", "scripts"),
    Fault(S + "recording.js", "if (!attempt.isWanted) return;", "", "scripts"),
    Fault(S + "recording.js", "if (!attempt.isCurrent || !recorder.isRecording) return;", "", "scripts"),
    Fault(S + "recording.js", "bars < data.countsAfter", "false", "scripts"),
    Fault(
        S + "recording.js", "cursor.show(second * rate)", "cursor.show(second)", "scripts"
    ),
    Fault(S + "recording.js", "if (this.recorder) this.recorder.events = [];", "", "scripts"),
    Fault(S + "recording.js", "from: 1, to: data.bars.length, mine: [] }", "mine: [] }", "scripts"),
    Fault(
        S + "recording.js",
        'machine.tell(parcels.sent === 0 ? "nothing" : "kept");',
        'machine.tell("nothing");',
        "scripts",
    ),
    Fault(S + "parcels.js", "data.fifths === data.ownFifths ? null : data.fifths", "data.fifths", "scripts"),
    Fault(S + "parcels.js", "this.recordedAt + this.sent", "this.recordedAt", "scripts"),
    Fault(
        S + "parcels.js", "lanes.length === 0 || !isNote || lanes", "lanes.length === 0 || lanes", "scripts"
    ),
    Fault(S + "parcels.js", "(time - latency.offsetMs) / 1000", "time / 1000", "scripts"),
    Fault(S + "outbox.js", "parcel.user === this.user && !(", "!(", "scripts"),
    Fault(S + "outbox.js", "now - parcel.recordingAt < BROKEN_OFF_MS", "false", "scripts"),
    Fault(S + "outbox.js", "if (this.isSending) return;", "", "scripts"),
    Fault(S + "outbox.js", "recordingAt: undefined }", "recordingAt: parcel.recordingAt }", "scripts"),
    Fault(S + "delivery.js", 'if (delivery.outcome === "halted") break;', "", "scripts"),
    Fault(S + "delivery.js", 'delivery.outcome === "waiting" && takeOf(parcel)', "false", "scripts"),
    Fault(
        S + "settings.js",
        "if (JSON.stringify(all[key]?.[1]) === JSON.stringify(value)) return;",
        "",
        "scripts",
    ),
    Fault(
        S + "settings.js",
        "if (all[name] === kept[name]) unsent.delete(name);",
        "unsent.delete(name);",
        "scripts",
    ),
    Fault(S + "settings.js", "OF_COMPUTER.has(name) ?", "false ?", "scripts"),
    Fault(S + "incoming.js", "if (isOn && pads.hit(number)) return;", "", "scripts"),
    Fault(S + "incoming.js", "isNote && data.hasLanes ? pads.meant(number) : number", "number", "scripts"),
    Fault(S + "pads.js", "if (this.told[pitch] !== undefined) {", "if (false) {", "scripts"),
    Fault(S + "reach.js", "if (reached === of) return;", "", "scripts"),
    Fault(
        S + "midi_out.js",
        "this.waiting.splice(place + 1, 0, [at, bytes]);",
        "this.waiting.push([at, bytes]);",
        "scripts",
    ),
    Fault(P + "recorder.js", "isCountIn ? Math.max(volume, 0.5) : volume", "volume", "scripts"),
    Fault(P + "recorder.js", "onset < this.beginning - EARLY_S || onset >= this.end", "false", "scripts"),
    Fault(P + "recorder.js", 'return this.stop("stalled");', "return;", "scripts"),
    Fault(P + "clock.js", "contextTime === this.lastContextTime", "false", "scripts"),
    Fault(P + "clock.js", "this.samples = [];\n    for", "for", "scripts"),
    Fault(P + "sources/typing.js", "if (this.down.has(event.code)) return;", "", "scripts"),
    Fault(
        P + "sources/typing.js", "if (wanted < 0 || wanted + longest > scale.length) return;", "", "scripts"
    ),
    Fault(P + "sources/typing.js", "this.isAccented ? ACCENT : 0", "0", "scripts"),
    Fault(
        P + "sources/typing.js",
        "for (const code of this.held) this.onInput",
        "for (const code of []) this.onInput",
        "scripts",
    ),
    # exercises, the library and the Bench
    Fault(W + "exercises/lifecycle.py", "due_at__gt=now, withdrawn_at=None", "due_at__gt=now", LIBRARY),
    Fault(W + "exercises/lifecycle.py", "deleted_at__lt=long_ago, assignments=None,", "deleted_at__lt=long_ago,", LIBRARY),
    Fault(W + "exercises/search.py", 'Q(meters__endswith=f" {search.meter}")', "Q(pk=None)", LIBRARY),
    Fault(W + "exercises/search.py", "tempo_bpm__lte=Decimal(search.fastest)", "tempo_bpm__lt=Decimal(search.fastest)", LIBRARY),
    Fault(W + "exercises/search.py", "mine if search.whose == MINE else ~mine", "mine", LIBRARY),
    Fault(W + "exercises/queries.py", "Q(is_shared=True) | Q(owner=user)", "Q(is_shared=True)", LIBRARY),
    Fault(W + "exercises/history.py", "number__lt=self.position - self.steps_kept", "number__lt=self.position", "tests.oido.test_bench tests.oido.test_stand"),
    Fault(W + "exercises/history.py", "if 0 <= i < len(part.notes)", "", "tests.oido.test_bench"),
    Fault(W + "exercises/services.py", "if not ImportedFile.objects.select_for_update().filter(pk=stored.pk, owner=owner).exists():", "if False:", "tests.oido.test_exercises"),
    Fault(W + "exercises/bundle.py", "if not MIN_BPM <= tempo <= MAX_BPM", "if not MIN_BPM <= tempo", "tests.oido.test_exercises tests.oido.test_library"),
    Fault(W + "exercises/ladder_draft.py", "if len(self.ladder.rungs) == MAX_RUNGS:", "if False:", "tests.oido.test_exercises tests.oido.test_library tests.oido.test_trial"),
    Fault(W + "bench/services.py", "and draft.kept_position > was", "", "tests.oido.test_bench"),
    Fault(W + "bench/services.py", "if not made.notes:", "if False:", "tests.oido.test_bench"),
    Fault(W + "bench/services.py", "if version.exercise_id != exercise.pk:", "if False:", "tests.oido.test_bench tests.oido.test_permissions"),
    Fault(W + "bench/services.py", "None if now == begun else", "", "tests.oido.test_bench"),
    # the Stand and takes
    Fault(W + "stand/tray.py", "return not self.is_closed and not self.takes_missing", "return not self.is_closed", "tests.oido.test_stand tests.oido.test_giving"),
    Fault(W + "stand/tray.py", "if is_readable and not rows:", "if is_readable:", "tests.oido.test_stand tests.oido.test_takes tests.oido.test_pages"),
    Fault(W + "stand/bodies.py", "if self.from_ms >= self.until_ms:", "if False:", "tests.oido.test_stand"),
    Fault(W + "stand/bodies.py", "if not set(lanes) <= known.keys():", "if False:", "tests.oido.test_stand tests.oido.test_stand_settings"),
    Fault(W + "takes/services.py", "if rules.attempts is not None and own.count() >= rules.attempts:", "if rules.attempts is not None and own.count() > rules.attempts:", "tests.oido.test_takes tests.oido.test_stand tests.oido.test_giving"),
    Fault(W + "takes/services.py", "or known.assignment_id != assignment.pk", "", "tests.oido.test_takes tests.oido.test_stand"),
    Fault(W + "takes/practice.py", "return int(judged.is_clean and in_tempo)", "return int(judged.is_clean)", "tests.oido.test_trial tests.oido.test_stand"),
    Fault(W + "takes/choosing.py", "or take.student_id != student.pk", "", "tests.oido.test_stand tests.oido.test_permissions"),
    # reports, the desk and progress
    Fault(W + "reports/note_card.py", "or abs(click_ms - forgiven_ms - judged_ms) > SAME_MS", "", "tests.oido.test_report"),
    Fault(W + "reports/costs.py", "key=lambda loss: (-loss[1], loss[0])", "key=lambda loss: loss[0]", "tests.oido.test_report tests.oido.test_marking"),
    Fault(W + "reports/report.py", "if sum(reasons.values()) > count[place] / 2", "", "tests.oido.test_report"),
    Fault(W + "reports/report.py", "max(self.deviations_ms, key=abs, default=None)", "max(self.deviations_ms, default=None)", "tests.oido.test_report"),
    Fault(W + "desk/class_picture.py", "return -(-4 * bar.troubled // self.takes)", "return 4 * bar.troubled // self.takes", "tests.oido.test_pages"),
    Fault(W + "desk/watching.py", "and row.sheet.accepted_at is not None", "", "tests.oido.test_desk tests.oido.test_giving"),
    Fault(W + "desk/watching.py", "if self.student_terms.is_excused:", "if False:", "tests.oido.test_desk tests.oido.test_giving"),
    Fault(W + "progress/need.py", "if mean < max(APART, ERRORS * error):", "if mean < APART:", "tests.oido.test_overrides"),
    Fault(W + "progress/progress.py", "-math.inf if figures.spread_ms is None else -figures.spread_ms", "figures.spread_ms or 0.0", "tests.oido.test_pages"),
    Fault(W + "classes/overview.py", "key=lambda p: -len(p.behind)", "key=lambda p: len(p.behind)", "tests.oido.test_roster"),
    Fault(W + "feedback/remarks.py", "and sheet.is_released and sheet.seen_at is None", "and sheet.seen_at is None", "tests.oido.test_desk"),
    Fault(W + "feedback/remarks.py", "if field in names and not value.strip():", "if field in names and not value:", "tests.oido.test_desk"),
    Fault(W + "feedback/things_to_do.py", 'and is_same and (alone or "")', 'and (alone or "")', "tests.oido.test_feedback tests.oido.test_report"),
    # rubrics and booklets
    Fault(W + "rubrics/services.py", "if locked.current is None or locked.current.data != says.to_json():", "if True:", "tests.oido.test_rubrics"),
    Fault(W + "rubrics/services.py", "not (rubric.is_shared or rubric.owner_id == teacher.pk)", "False", "tests.oido.test_rubrics tests.oido.test_permissions"),
    Fault(W + "booklets/services.py", "if any(one.school_id != booklet.school_id for one in exercises):", "if False:", "tests.oido.test_booklets"),
    Fault(W + "booklets/services.py", "if booklet.items.count() + len(exercises) > MAX_ITEMS:", "if len(exercises) > MAX_ITEMS:", "tests.oido.test_booklets"),
    # signing in, leaving, e-mails and what all share
    Fault(W + "access/guesses.py", "min(MAX_WAIT_S, 2.0 ** (excess - 1))", "1.0", "tests.oido.test_access"),
    Fault(W + "access/guesses.py", "row.count = 1 if row.last_at < now - FORGET_AFTER else row.count + 1", "row.count += 1", "tests.oido.test_access"),
    Fault(W + "access/services.py", "ends_at__gt=timezone.now()).first()\n        if isinstance(key, int)", "ends_at__isnull=False).first()\n        if isinstance(key, int)", "tests.oido.test_access"),
    Fault(W + "access/emails.py", "or locked.token_hash != change.token_hash", "", "tests.oido.test_authority"),
    Fault(W + "leaving/retention.py", "if term_due.goes_on > today:", "if False:", "tests.oido.test_leaving"),
    Fault(W + "leaving/retention.py", "if not head.is_head or school != head.school_id:", "if not head.is_head:", "tests.oido.test_leaving tests.oido.test_authority"),
    Fault(W + "leaving/erasing.py", "or person.pk == head.pk", "", "tests.oido.test_leaving"),
    Fault(W + "post/services.py", 'gone = {"body": ""} if row.is_secret', 'gone = {"body": ""} if False', "tests.oido.test_roster tests.oido.test_access tests.oido.test_people"),
    Fault(W + "common/client_address.py", "while addresses and _is_trusted(address, proxies):", "while addresses:", "tests.oido.test_access"),
    Fault(W + "common/cells.py", 'return f"\'{text}" if text.startswith(RISKY) else text', "return text", "tests.oido.test_gradebook tests.oido.test_roster"),
    Fault(W + "common/numbers.py", "and len(digits) <= MAX_DIGITS", "", "tests.oido.test_pages"),
    Fault(W + "opening/services.py", "if one.title not in known", "", "tests.oido.test_opening"),
    # what students really do
    Fault(
        M + "click_distance.py", "lost = 1.0 - (1.0 - lost) * kept", "pass", HABITS + " tests.ear.test_marks"
    ),
    Fault(M + "click_distance.py", "beats - np.round(beats)", "beats", HABITS),
    Fault(
        M + "click_distance.py",
        "with_bars + step * (1.0 - away)",
        "with_bars + step",
        HABITS + " tests.ear.test_marks",
    ),
    Fault(
        M + "room.py",
        "after > first, least, nearer",
        "after > first, nearer, nearer",
        HABITS + " tests.ear.test_marks",
    ),
    Fault(M + "figures.py", "np.sqrt((1.0 + carried) / (1.0 - carried))", "1.0", HABITS),
    Fault(
        "src/ear/progress/trend.py",
        "MEDIAN_LOSS * days * spread",
        "MEDIAN_LOSS * spread",
        "tests.ear.test_progress",
    ),
    Fault(
        "src/ear/matching/breaks.py",
        "stays and (beside",
        "(beside",
        HABITS + " " + LISTEN + " tests.ear.test_matching tests.ear.test_tempo",
    ),
    Fault("src/ear/matching/breaks.py", "[] if is_rhythm else stops", "stops", HABITS + " " + LISTEN),
    Fault(
        "src/ear/matching/breaks.py",
        "BREAK_S, BREAK_SPREADS = 0.1, 4.5",
        "BREAK_S, BREAK_SPREADS = 0.6, 4.5",
        HABITS,
    ),
    Fault("src/ear/matching/attempts.py", "MAX_PUT_RIGHT = 2", "MAX_PUT_RIGHT = 0", HABITS),
    Fault(
        "src/ear/matching/attempts.py",
        "explained + int(one_try.sum()), count + 1",
        "explained + int(one_try.sum()), 1",
        HABITS,
    ),
    Fault(
        "src/ear/matching/slips.py",
        "and _is_gone_through(matcher, hypothesis, gap, target, start)",
        "",
        HABITS,
    ),
    Fault("src/ear/matching/last_note.py", "MAX_BEATS = 2.25", "MAX_BEATS = 0.75", HABITS),
    Fault("src/ear/matching/naming.py", "put_right |= _put_right_in_time", "_put_right_in_time", HABITS),
    Fault(
        "src/ear/matching/pairing.py", "    _link_put_right(links, target, take, take_s=take_s)\n", "", HABITS
    ),
    Fault(F + "fills.py", "(bar, at) not in kept and", "", HABITS + " " + LISTEN),
    Fault(F + "causes.py", "        rest -= apart\n", "", HABITS),
    Fault(
        J + "ranking.py",
        "for waiting in (first, others, overall):",
        "for waiting in (overall, first, others):",
        HABITS + " " + LISTEN,
    ),
    Fault(
        J + "ranking.py",
        "                left.pop(atom, None)\n",
        "                pass\n",
        HABITS + " tests.ear.test_one_rule",
    ),
    Fault(
        J + "judge.py",
        "1.0 + (total - capped) / whole",
        "1.0",
        "tests.ear.test_one_rule tests.ear.test_rubrics",
    ),
    Fault(C + "timing/scoring.py", "lost * APART_SHARE / share", "lost * APART_SHARE", HABITS),
    Fault(C + "timing/tempo_rules.py", "here.click_bpm != before.last_click_bpm and", "False and", HABITS),
    Fault(
        C + "notes/nearly.py",
        "FAMILY_WORTH, FOOT_WORTH, OCTAVE_WORTH = 0.5, 0.9, 0.5",
        "FAMILY_WORTH, FOOT_WORTH, OCTAVE_WORTH = 0.0, 1.0, 0.0",
        HABITS,
    ),
    Fault(C + "notes/scoring.py", "by_floor * (1.0 - other_key_share)", "by_floor", HABITS),
    Fault(C + "flow/rules.py", "MIN_HALTS, HALTS_A_BAR = 3, 0.3", "MIN_HALTS, HALTS_A_BAR = 99, 0.3", HABITS),
    Fault(
        "src/ear/free/own_time.py",
        "max(_sureness(self.gathered, self.by_chance), self.divided)",
        "_sureness(self.gathered, self.by_chance)",
        "tests.ear.test_free",
    ),
    Fault(
        "src/ear/formats/free_json.py",
        "map(int, stored.meter.split",
        'map(int, "4/4".split',
        "tests.ear.test_cli tests.ear.test_free",
    ),
)  # fmt: skip
