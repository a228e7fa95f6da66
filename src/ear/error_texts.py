"""What each error of the core says, by its code; English is the key for a translation."""

from ear.text import Text, gettext_noop

ERROR_TEXTS: dict[str, Text] = {
    "attempts_1_not_counted": gettext_noop("attempts are 1 to {attempts_most}, or not counted"),
    "band_has_name_begins_at": gettext_noop("a band has a name, and begins at 0 to 100 per cent"),
    "each_bar_needs_a_chord": gettext_noop(
        "over notes of the chord there is a chord in each bar, not “N.C.”"
    ),
    "no_such_chord_in_bar": gettext_noop("bar {bar}: “{name}” is no chord that is known"),
    "bar_between_has_chord_more": gettext_noop("each bar between “|” has a chord or more"),
    "bar_has_no_middle_be": gettext_noop("a bar of {numerator}/{denominator} has no middle to be split at"),
    "bars_not_two_two": gettext_noop("bars {first} to {last} are not two and two"),
    "grace_note_is_within": gettext_noop("a grace note is at most {most} semitones from its note"),
    "voice_is_1_to": gettext_noop("a voice is 1 to {voices}, not {voice}"),
    "instrument_has_no_such_ornament": gettext_noop("this instrument has no such ornament"),
    "lane_name_has_1": gettext_noop("a lane’s name has 1 to {most} characters"),
    "lane_is_named_once": gettext_noop("a lane is named once"),
    "two_lanes_have_one_name": gettext_noop("two lanes have one name"),
    "instrument_has_no_lanes": gettext_noop("this instrument has no lanes"),
    "before_bar_1_there_nothing": gettext_noop("before bar 1 there is nothing to split off"),
    "instrument_has_no_pedal": gettext_noop("this instrument has no pedal"),
    "no_chord_names_in_bars": gettext_noop(
        "no chord name stands in bars {first} to {last}: choose bars or beats"
    ),
    "pedal_is_held_from_tick": gettext_noop("the pedal is held from tick 0 or later, for a tick or more"),
    "no_selected_notes_in_bars": gettext_noop("no selected note begins in bars {first} to {last}"),
    "pedal_marks_stand_in_order": gettext_noop("pedal marks stand one after the other"),
    "beyond_keys": gettext_noop("{name} is beyond the keys"),
    "chance_0_1_not": gettext_noop("a chance is 0 to 1, not {chance}"),
    "chord_names_stand_at_tick": gettext_noop("chord names stand at tick 0 or later, one after the other"),
    "copies_one_more": gettext_noop("copies are one or more"),
    "criterion_has_levels_checklist_not": gettext_noop("a criterion has levels or a checklist, not both"),
    "criterion_has_name_up_characters": gettext_noop(
        "a criterion has a name of up to {name_most} characters"
    ),
    "criterion_has_up_levels_things": gettext_noop(
        "a criterion has up to {steps_most} levels, or things to tick"
    ),
    "drum_parts_not_written_for": gettext_noop("drum parts are not written for hands"),
    "drums_have_no_key_leave": gettext_noop("drums have no key to leave"),
    "drums_have_no_keys_be": gettext_noop("drums have no keys to be carried through"),
    "empty_bars_go_before_bars": gettext_noop("empty bars go before bars 1 to {value}"),
    "exercise_has_bar_more_grid": gettext_noop("an exercise has 1 to 200 bars, and a grid"),
    "finger_1_not": gettext_noop("a finger is 1 to {fingers}, not {finger}"),
    "five_finger_figure_has_degrees": gettext_noop("a five-finger figure has degrees from 1 to 5"),
    "grid_has_steps_tick_more": gettext_noop(
        "a grid has steps of a tick or more and a swing of 1 to {swing_most}"
    ),
    "grid_rows_steps_too_large": gettext_noop(
        "a grid of {count} rows and {count_2} steps is too large: take fewer bars"
    ),
    "help_has_name_costs_0": gettext_noop("help has a name, and costs 0 to 100 points"),
    "late_costs_0_100": gettext_noop("being late costs 0 to 100 points"),
    "interval_second_octave_not": gettext_noop("an interval is a second to an octave, not {size}"),
    "key_chain_has_1_keys": gettext_noop("a key chain has 1 to {keys} keys and no less than no bars between"),
    "key_has_up_sharps_flats": gettext_noop("a key has up to {fifths_max} sharps or flats, not {fifths}"),
    "key_has_up_sharps_flats_2": gettext_noop("a key has up to {fifths_max} sharps or flats"),
    "keyboard_part_drum_part_cannot": gettext_noop("a keyboard part and a drum part cannot be joined"),
    "ladder_has_up_rungs": gettext_noop("a ladder has up to {rungs_most} rungs"),
    "latency_up_ms": gettext_noop("a latency is up to {latency_most_ms} ms"),
    "terms_are_missing": gettext_noop(
        "an explanation in the words of the lesson needs to know which they are"
    ),
    "terms_are_long": gettext_noop("the words of the lesson have up to {terms_most} characters"),
    "showing_needs_one_take": gettext_noop("where something is to be shown in a copy, one take is handed in"),
    "showing_is_part_of_mark": gettext_noop(
        "what is shown is a quarter, a half, three quarters or all of the mark"
    ),
    "shown_once": gettext_noop("each thing is to be shown once"),
    "questions_are_missing": gettext_noop("an exercise of questions only needs a question"),
    "no_such_rule": gettext_noop("there is no rule “{key}”"),
    "no_such_scale": gettext_noop("there is no scale “{name}”"),
    "least_density_0_more_not": gettext_noop(
        "the least number of notes in a bar is 0 or more and not above the most, which is 1 to 64"
    ),
    "lengths_taken_times_share_above": gettext_noop("lengths are taken times a share above 0, not {share}"),
    "level_has_name_gives_0": gettext_noop("a level has a name, and gives 0 to 100 points"),
    "text_of_part_is_too_long": gettext_noop("a text has up to {words_most} words"),
    "text_bars_are_1_to": gettext_noop("a part has bars 1 to {bars_most}, not {bar}"),
    "bar_is_said_twice": gettext_noop("bar {bar} stands there twice"),
    "bar_is_full_before": gettext_noop("bar {bar} is full before “{word}”; “|” goes on to the next bar"),
    "bar_has_no_such_beat": gettext_noop("bar {bar} has no beat {beat}"),
    "nothing_to_paste": gettext_noop("nothing is copied"),
    "nothing_to_hold_on": gettext_noop("“_” holds notes on, and before it there are none"),
    "value_is_not_read": gettext_noop(
        "the value of “{word}” is not read: 4 is a quarter, 4. a dotted one, 8t of a triplet"
    ),
    "lowest_key_lies_below_highest": gettext_noop("the lowest key lies below the highest"),
    "mark_out_1_up_ms": gettext_noop(
        "a mark is out of 1 to {out_of_most}; up to {forgiven_most_ms} ms can be forgiven"
    ),
    "meter_changes_must_be_order": gettext_noop("meter changes must be in order of bar"),
    "meter_map_begins_at_bar": gettext_noop("a meter map begins at bar 1"),
    "more_takes_asked_for_than": gettext_noop("more takes are asked for than attempts are allowed"),
    "more_takes_handed_together_than": gettext_noop(
        "more takes are handed in together than are recorded before"
    ),
    "moved_by_semitones_note_would": gettext_noop(
        "moved by {semitones} semitones, a note would leave the keys"
    ),
    "no_such_meter": gettext_noop("no such meter: {numerator}/{denominator}"),
    "out_of_range": gettext_noop("between {least} and {most}, not {value}"),
    "note_begins_at_tick_0": gettext_noop("a note begins at tick 0 or later and lasts a tick or more"),
    "note_cannot_end_before_it": gettext_noop("a note cannot end before it begins"),
    "note_value_tick_more": gettext_noop("a note value is a tick or more"),
    "notes_gives_nothing_up_0": gettext_noop("Notes gives nothing up to 0 to {floor_most} % of right notes"),
    "only_bars_that_count_same": gettext_noop("only bars that count the same note value can be joined"),
    "pad_sends": gettext_noop("a pad sends {pitch_min} to {pitch_max}"),
    "part_has_bar_at_least": gettext_noop("a part has a bar at least"),
    "repeated_too_often": gettext_noop("a stretch is played up to {most} times"),
    "signs_stand_in_bars": gettext_noop("signs stand in bars 1 to {count}"),
    "part_has_up_bars_this": gettext_noop("a part has up to {bars_most} bars; this would make {bars}"),
    "part_s_notes_stand_order": gettext_noop("a part's notes stand in order of onset and pitch"),
    "pass_goes_place_later_one": gettext_noop("a pass goes from a place to a later one"),
    "pass_played_at_per_cent": gettext_noop(
        "a pass is played at {tempo_least} to {tempo_most} per cent of the tempo"
    ),
    "patterns_go_over_1_octaves": gettext_noop("patterns go over 1 to {octaves_most} octaves, not {octaves}"),
    "percussion_number_stands_two_lanes": gettext_noop("percussion number {pitch} stands in two lanes"),
    "pitch_not": gettext_noop("a pitch is {pitch_min} to {pitch_max}, not {pitch}"),
    "playing_beside_click_worth_0": gettext_noop("playing beside the click is worth 0 to 100 %"),
    "rhythm_written_x_strike_hold": gettext_noop(
        "a rhythm is written with x to strike, - to hold and . to rest"
    ),
    "row_written_x_x_o": gettext_noop("a row is written with X, x, o and “{rest}”, not “{sign}”"),
    "rows_beat_equally_long_step": gettext_noop("the rows of a beat are equally long, a step or more"),
    "rubric_has_up_bands_another": gettext_noop(
        "a rubric has up to {bands_most} bands, each from another mark on"
    ),
    "rubric_has_up_criteria_its": gettext_noop(
        "a rubric has up to {hand_most} criteria of its own, each once"
    ),
    "rubric_needs_weights_0_more": gettext_noop("a rubric needs weights of 0 or more, and one above 0"),
    "rubric_s_bands_begin_at": gettext_noop("a rubric's bands begin at 0"),
    "rung_goes_bar_same_later": gettext_noop("a rung goes from a bar to the same or a later one"),
    "rung_has_name_up_characters": gettext_noop("a rung has a name of up to {name_most} characters"),
    "rung_has_up_loops_which": gettext_noop(
        "a rung has up to {loops_most} loops, of which some must be clean"
    ),
    "rung_s_tempo_per_cent": gettext_noop("a rung's tempo is {tempo_least} to {tempo_most} per cent"),
    "name_is_no_name_of_pitch": gettext_noop("this is no name of that pitch"),
    "no_finger_is_proposed": gettext_noop("what is proposed is a finger"),
    "sticks_strike_drums": gettext_noop("stickings are written for drums"),
    "section_has_name": gettext_noop("a section has a name of up to {name_most} characters"),
    "no_section_begins": gettext_noop("no section begins at bar {bar}"),
    "sections_begin_at_bar_1": gettext_noop("sections begin at bar 1 or later, one after the other"),
    "share_0_1_not": gettext_noop("a share is 0 to 1, not {share}"),
    "something_said_note_bar_by": gettext_noop("something is said of a note or of a bar, each by its number"),
    "step_tick_more": gettext_noop("a step is a tick or more"),
    "steps_ticks_do_not_fill": gettext_noop("{steps} steps of {step_ticks} ticks do not fill whole bars"),
    "strength_0_1_not": gettext_noop("a strength is 0 to 1, not {strength}"),
    "swing_ratio_up_not": gettext_noop("swing is a ratio up to {swing_most}, not {swing}"),
    "take_at_least_one_track": gettext_noop("take at least one track or part of the file"),
    "take_s_notes_stand_order": gettext_noop("a take's notes stand in order of onset and pitch"),
    "tap_along_beats_at_least": gettext_noop(
        "tap along with {beats_least} beats at least; {size} were heard"
    ),
    "tempo_changes_must_be_order": gettext_noop("tempo changes must be in order of tick"),
    "tempo_map_begins_at_tick": gettext_noop("a tempo map begins at tick 0"),
    "tempo_not": gettext_noop("a tempo is {bpm_min} to {bpm_max}, not {bpm}"),
    "tempo_ratio_0_25_4": gettext_noop("a tempo ratio is 0.25 to 4, not {tempo_ratio}"),
    "there_no_note_what_was": gettext_noop("there is no note in what was chosen"),
    "there_nothing_play_these_bars": gettext_noop("there is nothing to play in these bars"),
    "there_pattern_would_leave_keys": gettext_noop("from there the pattern would leave the keys"),
    "this_file_too_long_for": gettext_noop("this file is too long for a take"),
    "this_part_has_bars_1": gettext_noop("this part has bars 1 to {count}, not {first} to {last}"),
    "this_part_has_bars_1_2": gettext_noop("this part has bars 1 to {count}"),
    "this_part_has_bars_1_3": gettext_noop("this part has bars 1 to {count}, not {first_bar} to {last_bar}"),
    "this_part_has_bars_1_4": gettext_noop("this part has bars 1 to {bars}"),
    "tonic_letter_g_sharp_flat": gettext_noop(
        "a tonic is a letter from A to G, with a sharp or a flat at most"
    ),
    "up_questions_up_characters_asked": gettext_noop(
        "up to {questions_most} questions of up to {question_most} characters are asked"
    ),
    "velocity_not": gettext_noop("a velocity is {velocity_min} to {velocity_max}, not {velocity}"),
    "what_be_ticked_has_up": gettext_noop("what is to be ticked has up to {name_most} characters"),
    "word_at_note_has_1": gettext_noop("a word at a note has 1 to {label_most} characters"),
    "marks_contradict": gettext_noop("take {worse} is no worse than take {better} and is marked lower"),
}
