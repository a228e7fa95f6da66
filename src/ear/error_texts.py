"""What each error of the core says, by its code; English is the key for a translation."""

from ear.text import Text, gettext_noop

ERROR_TEXTS: dict[str, Text] = {
    "attempts_out_of_range": gettext_noop("Allow 1 to {attempts_most} attempts, or do not count them."),
    "band_incomplete": gettext_noop("Each band needs a name and must begin between 0 and 100%."),
    "bands_not_from_zero": gettext_noop("The lowest band of a rubric must begin at 0."),
    "bands_out_of_range": gettext_noop(
        "A rubric can have at most {bands_most} bands, each starting at a different mark."
    ),
    "bar_cannot_be_halved": gettext_noop("A bar of {numerator}/{denominator} cannot be split in the middle."),
    "bar_full": gettext_noop("Bar {bar} is full before “{word}”; write “|” to go on to the next bar."),
    "bar_outside_part": gettext_noop("This part only has bars 1 to {count}."),
    "bar_range_outside_part": gettext_noop(
        "This part only has bars 1 to {count}; you asked for {first} to {last}."
    ),
    "bar_without_chord": gettext_noop(
        "Where notes must belong to the chord, every bar needs a chord; “N.C.” cannot be used."
    ),
    "bar_written_twice": gettext_noop("Bar {bar} is written twice."),
    "bars_not_even": gettext_noop("Bars {first} to {last} cannot be paired: choose an even number of bars."),
    "bars_with_different_beats": gettext_noop("Bars can only be joined if they count the same note value."),
    "beat_outside_bar": gettext_noop("Bar {bar} has no beat {beat}."),
    "braille_of_drums": gettext_noop("Music braille of drums cannot be written yet."),
    "copies_out_of_range": gettext_noop("Copies are of the same key, or one or two octaves away."),
    "other_key_share_out_of_range": gettext_noop("Playing in another key can cost 0 to 100% of Notes."),
    "beside_click_share_out_of_range": gettext_noop("Playing beside the click can be worth 0 to 100%."),
    "chord_missing_between_bar_lines": gettext_noop("Write at least one chord between one “|” and the next."),
    "chord_names_not_sorted": gettext_noop("Chord names must be in order, from the start of the piece."),
    "chord_unknown": gettext_noop("Bar {bar}: “{name}” is not a chord Oido knows."),
    "copies_too_few": gettext_noop("Enter at least one copy."),
    "criterion_both_levels_and_checklist": gettext_noop(
        "A criterion can have levels or a checklist, but not both."
    ),
    "criterion_name_length": gettext_noop("A criterion’s name needs 1 to {name_most} characters."),
    "criterion_steps_out_of_range": gettext_noop(
        "A criterion can have at most {steps_most} levels or things to tick."
    ),
    "lane_bar_length": gettext_noop(
        "Each bar of the changing lane needs {count} signs here: X, x, o or a dot for each step."
    ),
    "degrees_unreadable": gettext_noop("Write degrees as numbers from 1 to 5: 1 2 3 4 5 3 1."),
    "degree_outside_five_fingers": gettext_noop("A five-finger pattern uses degrees 1 to 5."),
    "density_out_of_range": gettext_noop(
        "The fewest notes in a bar must be 0 or more and no more than the most, which must be 1 to 64."
    ),
    "drum_row_unreadable": gettext_noop("Write a row with X, x, o and “{rest}”, not “{sign}”."),
    "drum_rows_not_equally_long": gettext_noop(
        "All rows of a pattern must have the same number of steps, at least one."
    ),
    "drums_without_hands": gettext_noop("Drum parts are not written for right and left hand."),
    "drums_without_key": gettext_noop("Drum parts have no key, so this tool does not apply."),
    "empty_bars_place_outside_part": gettext_noop("Empty bars can go before any of bars 1 to {value}."),
    "exercise_size_out_of_range": gettext_noop("An exercise needs 1 to 200 bars and a grid."),
    "file_too_long_for_take": gettext_noop("This file is too long for a take."),
    "finger_out_of_range": gettext_noop("A finger must be between 1 and {fingers}, not {finger}."),
    "forgiven_bias_out_of_range": gettext_noop("At most {forgiven_most_ms} ms can be forgiven."),
    "grace_note_too_far": gettext_noop("A grace note can be at most {most} semitones from its note."),
    "grid_out_of_range": gettext_noop(
        "The grid needs steps with a length, and a swing of 1 to {swing_most}."
    ),
    "grid_too_large": gettext_noop(
        "A grid of {count} rows and {count_2} steps is too large: choose fewer bars."
    ),
    "handed_in_takes_above_attempts": gettext_noop(
        "More takes are to be handed in than attempts are allowed."
    ),
    "handed_in_takes_above_recorded": gettext_noop(
        "More takes are to be handed in together than are recorded before."
    ),
    "help_incomplete": gettext_noop("Each kind of help needs a name and can cost 0 to 100 points."),
    "instrument_without_lanes": gettext_noop("This instrument has no lanes."),
    "instrument_without_pedal": gettext_noop("This instrument has no pedal."),
    "interval_out_of_range": gettext_noop("The interval must be between a second and an octave, not {size}."),
    "key_chain_out_of_range": gettext_noop(
        "A key chain has 1 to {keys} keys, with 0 or more bars of rest between them."
    ),
    "key_signature_out_of_range": gettext_noop(
        "A key can have at most {fifths_max} sharps or flats, not {fifths}."
    ),
    "keyboard_and_drums_mixed": gettext_noop("A keyboard part and a drum part cannot be joined."),
    "lane_name_length": gettext_noop("A lane’s name needs 1 to {most} characters."),
    "lane_name_taken": gettext_noop("Two lanes have the same name. Give each its own."),
    "lane_named_twice": gettext_noop("A lane can only be named once."),
    "late_cost_out_of_range": gettext_noop("Being late can cost 0 to 100 points."),
    "latency_out_of_range": gettext_noop("Latency can be at most {latency_most_ms} ms."),
    "length_factor_not_positive": gettext_noop(
        "Note lengths can only be multiplied by a number above 0, not {share}."
    ),
    "lesson_words_missing": gettext_noop("List the words that the explanation should use."),
    "lesson_words_too_long": gettext_noop(
        "The words of the lesson can have at most {terms_most} characters."
    ),
    "level_incomplete": gettext_noop("Each level needs a name and can give 0 to 100 points."),
    "lowest_key_above_highest": gettext_noop("The lowest key must be below the highest."),
    "mark_total_out_of_range": gettext_noop("A mark can be out of 1 to {out_of_most}."),
    "marks_contradict": gettext_noop("Take {worse} is no worse than take {better} but is marked lower."),
    "meter_changes_not_sorted": gettext_noop("Time-signature changes must be in bar order."),
    "meter_missing_at_start": gettext_noop("The first time signature must be at bar 1."),
    "text_head_unreadable": gettext_noop("“{line}” is no metre, tempo, key or instrument."),
    "articulations_not_sorted": gettext_noop("A note has each articulation once."),
    "sign_ends_before_it_begins": gettext_noop("A slur ends at a later note than it begins."),
    "sign_text_length": gettext_noop("Text over a bar has 1 to {most} characters."),
    "signs_not_sorted": gettext_noop("Signs must be in order, and none there twice."),
    "bar_not_begun": gettext_noop("Bar {bar} has not begun yet, so no line can go on with it."),
    "text_mark_unreadable": gettext_noop("“{word}” has marks that Oido does not know."),
    "articulations_not_for_drums": gettext_noop(
        "Drum strokes have no staccato or tenuto; their accents are their velocities."
    ),
    "chord_names_not_for_drums": gettext_noop("Drum parts have no chord names."),
    "fermata_needs_a_note": gettext_noop("A fermata stands over a note."),
    "slur_needs_two_notes": gettext_noop(
        "Pick at least two notes of one hand, one after the other, for a slur."
    ),
    "fill_longer_than_bar": gettext_noop("The fill is longer than the bar."),
    "groove_variation_unknown": gettext_noop(
        "There are {most} variations of this groove, and not so many fills."
    ),
    "two_hands_scales_only": gettext_noop("Only scales go a third, a sixth or a tenth apart."),
    "meter_groups_wrong": gettext_noop("The groups of a time signature must add up to {numerator}."),
    "meter_unknown": gettext_noop("{numerator}/{denominator} is not a time signature Oido can use."),
    "no_chord_names_in_bars": gettext_noop(
        "Bars {first} to {last} have no chord names: choose bars or beats."
    ),
    "no_notes_chosen": gettext_noop("There are no notes in what you chose."),
    "no_section_at_bar": gettext_noop("No section begins at bar {bar}."),
    "no_selected_notes_in_bars": gettext_noop("No picked note begins in bars {first} to {last}."),
    "no_track_chosen": gettext_noop("Choose at least one track or part of the file."),
    "note_empty": gettext_noop("A note must start inside the piece and have a length."),
    "note_ends_before_start": gettext_noop("A note cannot end before it begins."),
    "note_override_place_unreadable": gettext_noop("A decision must name its note or bar by number."),
    "note_value_empty": gettext_noop("A note value needs a length."),
    "note_value_unreadable": gettext_noop(
        "“{word}” has no note value Oido can read. Write a number after the note: /4, /4. (dotted) or /8t (triplet)."
    ),
    "note_word_length": gettext_noop("A word at a note needs 1 to {label_most} characters."),
    "notes_floor_out_of_range": gettext_noop(
        "“Notes begin to count at” must be between 0 and {floor_most}%."
    ),
    "nothing_to_hold": gettext_noop("“_” holds the last notes, but there is nothing before it to hold."),
    "nothing_to_paste": gettext_noop("Nothing has been copied yet."),
    "nothing_to_play_in_bars": gettext_noop("There is nothing to play in these bars."),
    "octaves_out_of_range": gettext_noop("A pattern can span 1 to {octaves_most} octaves, not {octaves}."),
    "ornament_not_for_instrument": gettext_noop("This instrument does not have that ornament."),
    "out_of_range": gettext_noop("This must be between {least} and {most}, not {value}."),
    "pad_number_out_of_range": gettext_noop("A pad’s number must be between {pitch_min} and {pitch_max}."),
    "part_notes_not_sorted": gettext_noop("The notes of a part must be in order of onset and pitch."),
    "part_text_bar_outside_part": gettext_noop("The part can have bars 1 to {bars_most}, not bar {bar}."),
    "part_text_too_long": gettext_noop("The text can have at most {words_most} words."),
    "part_without_bars": gettext_noop("A part needs at least one bar."),
    "pass_ends_before_start": gettext_noop("The end of a pass must come after its start."),
    "pass_tempo_out_of_range": gettext_noop(
        "A pass can be played at {tempo_least} to {tempo_most}% of the tempo."
    ),
    "pattern_off_keyboard": gettext_noop("From there the pattern would go off the end of the keyboard."),
    "pedal_mark_empty": gettext_noop("The pedal mark must start inside the piece and have a length."),
    "pedal_marks_overlap": gettext_noop("Pedal marks must not overlap."),
    "percussion_number_in_two_lanes": gettext_noop("Percussion number {pitch} belongs to two lanes."),
    "pitch_out_of_range": gettext_noop("A pitch must be between {pitch_min} and {pitch_max}, not {pitch}."),
    "pitch_outside_keyboard": gettext_noop("{name} is outside the range of the keyboard."),
    "probability_out_of_range": gettext_noop("A probability must be between 0 and 1, not {chance}."),
    "proposal_without_finger": gettext_noop("Only a finger can be a proposal."),
    "questions_missing": gettext_noop("A questions-only exercise needs at least one question."),
    "questions_out_of_range": gettext_noop(
        "Ask at most {questions_most} questions of at most {question_most} characters each."
    ),
    "rhythm_unreadable": gettext_noop("Write the rhythm with x to strike, - to hold and . to rest."),
    "rule_unknown": gettext_noop("There is no rule called “{key}”."),
    "rung_ends_before_start": gettext_noop("A rung must end in the bar where it begins, or later."),
    "rung_loops_out_of_range": gettext_noop(
        "A rung can have at most {loops_most} loops, and at least one must be clean."
    ),
    "rung_name_length": gettext_noop("A rung’s name needs 1 to {name_most} characters."),
    "rung_tempo_out_of_range": gettext_noop(
        "A rung’s tempo must be {tempo_least} to {tempo_most}% of the exercise’s."
    ),
    "scale_unknown": gettext_noop("There is no scale called “{name}”."),
    "section_name_length": gettext_noop("A section’s name needs 1 to {name_most} characters."),
    "sections_not_sorted": gettext_noop("Sections must be in order, from bar 1 on."),
    "share_out_of_range": gettext_noop("A proportion must be between 0 and 1, not {share}."),
    "showing_needs_one_take": gettext_noop(
        "If something is to be shown in a copy, only one take can be handed in."
    ),
    "showing_share_not_a_quarter": gettext_noop(
        "The share for what is shown must be 25, 50, 75 or 100% of the mark."
    ),
    "shown_twice": gettext_noop("Each thing can only be shown once."),
    "signs_outside_part": gettext_noop("Signs can only be placed in bars 1 to {count}."),
    "spelling_wrong_for_pitch": gettext_noop("That is not a name for this pitch."),
    "step_empty": gettext_noop("A step needs a length."),
    "steps_do_not_fill_bars": gettext_noop(
        "{steps} steps do not fill whole bars: choose another number of steps."
    ),
    "stickings_not_for_keyboard": gettext_noop("Stickings can only be written for drums."),
    "strength_out_of_range": gettext_noop("Strength must be between 0 and 100%."),
    "swing_out_of_range": gettext_noop("The swing ratio must be between 1 and {swing_most}, not {swing}."),
    "take_notes_not_sorted": gettext_noop("The notes of a take must be in order of onset and pitch."),
    "teacher_criteria_out_of_range": gettext_noop(
        "A rubric can have at most {hand_most} criteria of its own, each only once."
    ),
    "tempo_changes_not_sorted": gettext_noop("Tempo changes must be in order."),
    "tempo_missing_at_start": gettext_noop("The first tempo must be at the start of the piece."),
    "tempo_out_of_range": gettext_noop("The tempo must be between {bpm_min} and {bpm_max}, not {bpm}."),
    "tempo_ratio_out_of_range": gettext_noop(
        "The tempo must be between a quarter of the written one and four times as fast, not {tempo_ratio} times."
    ),
    "tick_name_length": gettext_noop("Each thing to tick needs 1 to {name_most} characters."),
    "tonic_unreadable": gettext_noop("The key note must be a letter A to G, with at most one sharp or flat."),
    "too_few_taps": gettext_noop("Tap at least {beats_least} beats; only {size} arrived."),
    "too_many_accidentals": gettext_noop("A key can have at most {fifths_max} sharps or flats."),
    "too_many_bars": gettext_noop("A part can have at most {bars_most} bars; this would make {bars}."),
    "pickup_without_rest": gettext_noop(
        "A pick-up comes at the end of its bar: the first bar has to begin with a rest, and there has to be a bar after it."
    ),
    "bar_again_not_earlier": gettext_noop(
        "After “=” write the number of an earlier bar, the one that bar {bar} repeats."
    ),
    "bar_again_other_meter": gettext_noop(
        "Bar {bar} cannot repeat that bar: it has a different time signature."
    ),
    "ending_too_long": gettext_noop(
        "An ending here can have at most {most} bars: something has to stay the same each time."
    ),
    "ending_inside_repeat": gettext_noop(
        "These bars are already repeated, or repeated too often, so they cannot have endings."
    ),
    "too_many_repeats": gettext_noop("A passage can be repeated at most {most} times."),
    "too_many_rungs": gettext_noop("A ladder can have at most {rungs_most} rungs."),
    "transposed_off_keyboard": gettext_noop(
        "Moved by {semitones} semitones, a note would go off the end of the keyboard."
    ),
    "velocity_out_of_range": gettext_noop(
        "A velocity must be between {velocity_min} and {velocity_max}, not {velocity}."
    ),
    "voice_out_of_range": gettext_noop("The voice must be between 1 and {voices}, not {voice}."),
    "weights_out_of_range": gettext_noop("Weights must be 0 or more, and at least one must be above 0."),
}
