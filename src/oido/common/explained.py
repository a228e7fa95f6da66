"""Which paragraph of a guide explains an error of the core."""

from django.urls import reverse
from django.utils.html import format_html
from django.utils.translation import gettext as _

TEXT, BEGIN, JOBS, RULES, LADDER = (
    ("bench", "the-part-as-text"), ("bench", "begin"), ("bench", "ten-jobs"), ("bench", "how-it-is-recorded"), ("bench", "the-ladder"),
)  # fmt: skip
RUBRICS, SCALE, GRID = (
    ("report", "rubrics"),
    ("measurement", "the-scale-set-by-ear"),
    ("bench", "the-page-of-music-and-what-is-around-it"),
)
_CODES = {
    TEXT: (
        "line_of_text", "bar_full", "bar_written_twice", "bar_not_begun", "text_head_unreadable", "text_mark_unreadable", "note_value_unreadable",
        "nothing_to_hold", "bar_again_not_earlier", "bar_again_other_meter", "part_text_bar_outside_part", "part_text_too_long",
        "note_word_length",
    ),
    BEGIN: (
        "chord_unknown", "chord_missing_between_bar_lines", "rhythm_unreadable", "degrees_unreadable", "degree_outside_five_fingers",
        "drum_row_unreadable", "drum_rows_not_equally_long", "lane_bar_length", "fill_longer_than_bar", "groove_variation_unknown",
        "pattern_off_keyboard", "tonic_unreadable",
    ),
    JOBS: (
        "pickup_without_rest", "ending_too_long", "ending_inside_repeat", "too_many_repeats", "bars_not_even", "bars_with_different_beats",
        "bar_cannot_be_halved", "slur_needs_two_notes", "fermata_needs_a_note", "articulations_not_for_drums",
    ),
    GRID: ("grid_too_large", "steps_do_not_fill_bars"),
    RULES: (
        "attempts_out_of_range", "handed_in_takes_above_attempts", "handed_in_takes_above_recorded", "questions_missing",
        "questions_out_of_range", "showing_needs_one_take", "lesson_words_missing", "bar_without_chord", "density_out_of_range",
    ),
    LADDER: ("rung_ends_before_start", "rung_loops_out_of_range", "rung_tempo_out_of_range", "too_many_rungs"),
    RUBRICS: (
        "bands_not_from_zero", "band_incomplete", "bands_out_of_range", "criterion_both_levels_and_checklist", "level_incomplete",
        "help_incomplete", "weights_out_of_range", "notes_floor_out_of_range", "forgiven_bias_out_of_range", "late_cost_out_of_range",
    ),
    SCALE: ("marks_contradict",),
}  # fmt: skip
PARAGRAPHS = {code: paragraph for paragraph, codes in _CODES.items() for code in codes}
"""By the code of the error: the guide and its section."""


def with_explanation(message: str, code: str) -> str:
    """Return an error’s message with a link to the paragraph that explains it, if one does."""
    paragraph = PARAGRAPHS.get(code)
    if paragraph is None:
        return message
    guide, section = paragraph
    address = f"{reverse('guide', args=[guide])}#{section}"
    return format_html('{} <a href="{}" target="_blank">{}</a>', message, address, _("Find out more"))
