"""Help for one page at a time: what it is for, its keys, what people ask about it, and what its signs mean."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy


@dataclass(frozen=True, slots=True, kw_only=True)
class LegendSign:
    """`drawing` names how `help/_sign.html` draws it."""

    drawing: str
    words: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class PageHelp:
    """`keys` are pairs of what is pressed and what it does; `guide` and `anchor` lead to more about the page."""

    title: Any
    purpose: Any
    guide: str
    anchor: str
    questions: tuple[tuple[Any, Any], ...]
    keys: tuple[tuple[str, Any], ...] = ()
    signs: tuple[LegendSign, ...] = ()


_PLAYER_KEYS = (("Space", _("play, or stop")), ("X", _("mark this place")))
_MUSIC_SIGNS = (
    LegendSign(drawing="outline", words=_("an outline: a written note")),
    LegendSign(drawing="fill", words=_("a filled bar: what was played, darker if it was louder")),
    LegendSign(drawing="early", words=_("a pennant to the left: early enough to cost points")),
    LegendSign(drawing="late", words=_("a pennant to the right: late enough to cost points")),
    LegendSign(drawing="wrong", words=_("red: a wrong key")),
    LegendSign(drawing="missed", words=_("a dashed outline: a missed note")),
    LegendSign(drawing="letter", words=_("a letter in a circle: see the ear note with the same letter")),
    LegendSign(drawing="strip", words=_("the drift strip: dots above the line were early, below it late; the band costs nothing")),
    LegendSign(drawing="weight", words=_("the weight strip: the bar shows how loudly a note was played, the tick how loudly it is written")),
)  # fmt: skip

STAFF_PAGES: dict[str, PageHelp] = {
    "home": PageHelp(
        title=pgettext_lazy("page", "Today"),
        purpose=_("What needs your attention today: takes to mark, trouble spots, and what is due next."),
        guide="report", anchor="the-desk",
        questions=(
            (_("What are trouble spots?"), _("Bars where a tenth or more of what a student played went wrong. “Hear the bars” leads to them.")),
            (_("Where are the takes that I have accepted?"), _("Under Marking, choose “accepted”. Students see them once you release them.")),
            (_("How do I set more work?"), _("Open an exercise under Exercises and choose “Give it”.")),
        ),
    ),
    "exercise": PageHelp(
        title=pgettext_lazy("page", "An exercise"),
        purpose=_("One exercise: its music, what students read and may do, its ladder, and who has been given it."),
        guide="bench", anchor="the-exercises-page",
        questions=(
            (_("How do I change the notes?"), _("Choose “Edit on the Bench”. Students keep the saved version until you save again.")),
            (_("Who can see it?"), _("You, and the students it was given to. “Share it” lets colleagues find, give and copy it.")),
            (_("What does the red tint mean?"), _("Bars that students had trouble with in recent takes. A deeper red means more takes. The figures are beside the music.")),
        ),
        keys=_PLAYER_KEYS,
        signs=(LegendSign(drawing="trouble", words=_("a red tint over a bar: many takes had trouble there")),),
    ),
    "bench": PageHelp(
        title=pgettext_lazy("page", "The Bench"),
        purpose=_("Writing and changing the notes of an exercise, on the music, as text, on a grid of steps, or by playing."),
        guide="bench", anchor="the-page-of-music-and-what-is-around-it",
        questions=(
            (_("Can students see what I do here?"), _("Not until you save. “Undo” goes back as far as you like.")),
            (_("Where are the actions for notes?"), _("Pick a note and they appear below the tools.")),
            (_("What do dashed lines around the music mean?"), _("A tool is showing what it would do. Nothing changes until you choose “Apply”.")),
        ),
        keys=(
            ("← →", _("previous note, next note")), ("↑ ↓", _("higher, lower")), ("Shift ← →", _("earlier, later")),
            ("N", _("a note at the cursor")), ("T", _("to the tools")), ("W", _("to the text")), ("Ctrl Z", _("undo")),
        ),
        signs=(
            LegendSign(drawing="picked", words=_("dark blue: picked notes")),
            LegendSign(drawing="dashes", words=_("a dashed outline: what the tool would change")),
        ),
    ),
    "give": PageHelp(
        title=pgettext_lazy("page", "Giving an exercise"),
        purpose=_("Who gets an exercise, by when, and what they see of their takes."),
        guide="term", anchor="giving",
        questions=(
            (_("Can one student have more time?"), _("Yes: open “Only some students, or other dates”, or change it later under “Who is where”.")),
            (_("What happens after the due date?"), _("You choose: takes are accepted, cost points by the day, or are refused.")),
            (_("Can I withdraw it?"), _("Yes, on the assignment’s page. Takes that were recorded are kept.")),
        ),
    ),
    "marking": PageHelp(
        title=pgettext_lazy("page", "Marking"),
        purpose=_("Everything handed in and waiting for you, earliest due date first."),
        guide="report", anchor="the-desk",
        questions=(
            (_("Which takes can I mark together?"), _("A class’s straightforward ones, once you have checked a few picked at random.")),
            (_("What is the difference between accepting and releasing?"), _("An accepted mark counts in the mean; once released, the student can see it too.")),
            (_("Can I undo a release?"), _("Yes, as long as the student has not seen the mark.")),
        ),
    ),
    "take": PageHelp(
        title=pgettext_lazy("page", "A take"),
        purpose=_("One take: what was written and what was played, what Oido heard, and the mark with its working."),
        guide="report", anchor="a-takes-report",
        questions=(
            (_("Why is the mark what it is?"), _("“Show the working” shows every sum, and the notes that cost the most marks.")),
            (_("I disagree with a score. What can I do?"), _("Click the score and enter your own, with a reason. Or mark a note as right on its card.")),
            (_("What does “late” mean when the whole take is late?"), _("Being early or late all the time is judged separately. Each note is shown against the player’s own pulse.")),
        ),
        keys=(
            *_PLAYER_KEYS, ("F D", _("next fault, previous fault")), ("H", _("hear it")), ("W", _("the working")),
            ("1 … 9", _("change the score in that row")), ("M", _("write a remark")), ("R", _("release, and on to the next")),
            ("A", _("accept, release later")), ("N P", _("next take, previous take")),
        ),
        signs=_MUSIC_SIGNS,
    ),
    "gradebook": PageHelp(
        title=pgettext_lazy("page", "Marks of a class"),
        purpose=_("A class’s marks and means, and columns of your own."),
        guide="term", anchor="marks-of-a-class",
        questions=(
            (_("Why is a mark not in the mean?"), _("It says “waiting”: accept it under Marking.")),
            (_("How do I excuse a student?"), _("Go to the cell and type e. Delete brings back what Oido measured.")),
            (_("Where are the pieces of a booklet?"), _("In one column with their mean; “show … columns” opens it.")),
        ),
        keys=(
            ("← → ↑ ↓", _("from cell to cell")), ("0 … 9", _("enter a mark")), ("E", _("excused")), ("M", _("missing")),
            ("Enter", _("save and go down to the next student")), ("Delete", _("delete what you entered")),
        ),
    ),
    "assignment": PageHelp(
        title=pgettext_lazy("page", "An assignment"),
        purpose=_("How a class did with one exercise, student by student and bar by bar."),
        guide="report", anchor="progress-and-the-class-picture",
        questions=(
            (_("When does a square count as trouble?"), _("When a tenth of the bar or more went wrong.")),
            (_("Can I hear a square?"), _("Yes: click it, and that student’s bar is played.")),
            (_("How do I get the class to practise a passage?"), _("Tick the bars and choose “Exercise of these bars”.")),
        ),
        signs=(LegendSign(drawing="shade", words=_("the darker a square, the more was lost in that bar")),),
    ),
    "ladder": PageHelp(
        title=pgettext_lazy("page", "A ladder"),
        purpose=_("An exercise’s practice rungs, easiest first."),
        guide="bench", anchor="the-ladder",
        questions=(
            (_("How do I add a rung?"), _("Draw over its bars on the music, or choose “A new rung”.")),
            (_("When does the next rung open?"), _("After as many clean loops as the rung asks for.")),
            (_("How do I move or delete a rung?"), _("“More” beside it.")),
        ),
        keys=(("← →", _("from bar to bar")), ("Shift ← →", _("more bars")), ("Enter", _("make a rung of them"))),
    ),
    "rubric": PageHelp(
        title=pgettext_lazy("page", "A rubric"),
        purpose=_("What counts towards a mark, by how much, and what mistakes cost."),
        guide="report", anchor="rubrics",
        questions=(
            (_("What happens to existing marks when I change it?"), _("Nothing: your change becomes a new version. An assignment’s page shows what it would change there before you save those marks.")),
            (_("How strict should it be?"), _("Watch how the marks beside the form change, or set the scale by ear from an exercise’s page.")),
            (_("Can colleagues use it?"), _("Yes, once you share it in the list of rubrics.")),
        ),
    ),
    "class": PageHelp(
        title=pgettext_lazy("page", "A class"),
        purpose=_("Who is in a class, how they sign in, and what they were given."),
        guide="school", anchor="classes",
        questions=(
            (_("What if a student forgets their password?"), _("Print a slip. Its code lets them sign in once and choose a new password.")),
            (_("How do students join?"), _("With a join code. Or you add them, one by one or by importing a list.")),
            (_("Who needs help?"), _("In “Progress”, students who are behind the class come first.")),
        ),
    ),
}  # fmt: skip
STUDENT_PAGES: dict[str, PageHelp] = {
    "home": PageHelp(
        title=pgettext_lazy("page", "Your work"),
        purpose=_("What you were given, when it is due, and five minutes of practice for today."),
        guide="student", anchor="the-first-minute",
        questions=(
            (_("How do I begin?"), _("Open an exercise: you can play, practise and record there at once.")),
            (_("Where is my mark?"), _("It appears here once your teacher releases it.")),
            (_("Who sees how much I practise?"), _("Nobody but you.")),
        ),
    ),
    "stand": PageHelp(
        title=pgettext_lazy("page", "The Stand"),
        purpose=_("Listen, practise, record, and hand in."),
        guide="student", anchor="record",
        questions=(
            (_("Oido cannot hear my keyboard. What can I do?"), _("Choose it at “Play on”, and let the browser use MIDI. Or play on the typing keys, or on the screen.")),
            (_("I am always early or always late."), _("Measure the latency under “Set up”: tap along with eight clicks.")),
            (_("My connection has dropped. Is my take lost?"), _("No. It stays in this browser and is sent as soon as you are back online.")),
        ),
        keys=(
            ("Enter", _("record")), ("Shift Enter", _("practise")), ("Space", _("listen, or stop")), ("Esc", _("stop")),
        ),
        signs=(
            LegendSign(drawing="fill", words=_("a filled bar: what you played, darker if it was louder")),
            LegendSign(drawing="wrong", words=_("red: a wrong key")),
            LegendSign(drawing="missed", words=_("a dashed outline: a missed note")),
        ),
    ),
    "take": PageHelp(
        title=pgettext_lazy("page", "Your take"),
        purpose=_("What you played beside what is written, what went well, and what to practise next."),
        guide="student", anchor="read-the-report",
        questions=(
            (_("What should I do first?"), _("The first thing in the list: hear it, then “Practise this”.")),
            (_("Can I ask about a remark?"), _("Yes, once your mark is released: reply under it.")),
            (_("May I record it again?"), _("Yes, until you hand it in, if your teacher allows more takes.")),
        ),
        keys=(*_PLAYER_KEYS, ("F D", _("next fault, previous fault")), ("H", _("hear it"))),
        signs=_MUSIC_SIGNS,
    ),
}  # fmt: skip


def page_help(url_name: str | None, *, is_staff: bool) -> PageHelp | None:
    """Return the help for the page of that name, if it has its own."""
    return (STAFF_PAGES if is_staff else STUDENT_PAGES).get(url_name or "")
