"""Notes as a row of the table of criteria."""

from ear.criteria.kind import CeilingRule, CriterionKind
from ear.criteria.notes import NOTES, missed_or_extra, played_elsewhere, praise, rules, wrong_notes
from ear.criteria.notes.nearly import NEARLY, nearly_right
from ear.criteria.notes.scoring import ALL_TOO_MANY, OTHER_KEY, TOO_MANY, WRONG, free_notes, notes
from ear.criteria.score import MISSED
from ear.criteria.working import COUNT, words
from ear.findings.finding import findings_in
from ear.notes import Kind
from ear.text import gettext_noop, pgettext_lazy

WEIGHED = "{count} → {weighed}"
CRITERION = CriterionKind(
    key=NOTES, title=gettext_noop("Notes"), score=lambda s: notes(s.seen, floor_percent=s.floor_percent, other_key_share=s.other_key_share),
    score_free=lambda s: free_notes(s.seen), weights={Kind.KEYBOARD: 35, Kind.DRUMS: 30}, speaks=0, reported=1,
    verdicts={
        WRONG: gettext_noop("wrong note"), MISSED: pgettext_lazy("timing", "missed"),
        TOO_MANY: gettext_noop("extra note"),
    },
    losses=ALL_TOO_MANY, of_whole=frozenset({OTHER_KEY}), columns={NEARLY: nearly_right},
    ceiling=CeilingRule(
        least=45.0, rate=0.55, text=gettext_noop("Notes caps the mark: at most {least} + {rate} × {by}")
    ),
    lines={
        "notes_right": words(gettext_noop("right notes"), gettext_noop("{count} of {of} written")),
        "notes_nearly": words(
            gettext_noop("nearly right: a drum of the same family, the foot for the stick, a hand in another octave"),
            WEIGHED,
        ),
        "notes_wrong": words(gettext_noop("wrong notes"), COUNT),
        "notes_missed": words(gettext_noop("missed notes"), COUNT),
        "notes_extra": words(gettext_noop("extra notes, each counts as one"), WEIGHED),
        "notes_double": words(gettext_noop("double hits, each counts as half a note"), WEIGHED),
        "notes_ornament": words(
            gettext_noop("notes of ornaments that are not written, each a quarter of a note"), WEIGHED
        ),
        "notes_put_right": words(
            gettext_noop("wrong keys put right at once, each counts as half a note"), WEIGHED
        ),
        "notes_overlaid": words(
            gettext_noop("notes of a pass played over the first, each a quarter of a note"), WEIGHED
        ),
        "notes_graze": words(gettext_noop("brushed keys, each counts as a quarter of a note"), WEIGHED),
        "notes_share": words(
            gettext_noop("right, out of the notes written plus extra notes"), "{right} ÷ {whole} = {percent}%"
        ),
        "notes_floor": words(
            # xgettext:no-python-format
            gettext_noop("points, from 0 at {floor}% right to 100 with all right"),
            "({percent} − {floor}) ÷ (100 − {floor}) → {score}",
        ),
        "notes_other_key": words(gettext_noop("all of it in another key"), "{by} − {percent}% → {score}"),
        "free_set": words(gettext_noop("notes inside the set"), "{right} ÷ {of} → {score}"),
        "free_short": words(gettext_noop("too few notes"), COUNT),
    },
    findings=(
        *findings_in(played_elsewhere), *findings_in(wrong_notes), *findings_in(missed_or_extra), *findings_in(praise),
    ),
    rules=rules.RULES, free_rules=rules.FREE_RULES, praise=praise.praise,
)  # fmt: skip
