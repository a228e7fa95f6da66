"""The table of what is remembered of who did what: a code, and the sentence that says it.

Sentences name no one: who it was and whom it concerned are keys of people, looked up when they are read. So somebody who
has been erased is "a former member" in every line at once.
"""

from typing import Any

from django.utils.translation import gettext_lazy as _

ACTS: dict[str, Any] = {
    "school_set_up": _("set up the school"),
    "school_changed": _("changed the settings of the school"),
    "person_added": _("added %(person)s as %(role)s"),
    "person_renamed": _("changed the name or sign-in name of %(person)s"),
    "role_changed": _("made %(person)s %(role)s, before %(before)s"),
    "person_left": _("took %(person)s off the school"),
    "person_returned": _("took %(person)s back into the school"),
    "person_exported": _("downloaded everything about %(person)s"),
    "person_erased": _("erased somebody; receipt %(receipt)s"),
    "list_imported": _("imported a list: %(new)s new, %(changed)s changed"),
    "import_undone": _("undid an imported list of %(new)s people"),
    "class_made": _("made the class %(school_class)s"),
    "class_renamed": _("renamed a class from %(before)s to %(school_class)s"),
    "class_archived": _("archived %(school_class)s"),
    "class_restored": _("restored %(school_class)s from the archive"),
    "class_brought_forward": _("brought %(before)s forward as %(school_class)s"),
    "teacher_joined_class": _("made %(person)s a teacher of %(school_class)s"),
    "teacher_left_class": _("took %(person)s off the teachers of %(school_class)s"),
    "student_joined_class": _("added %(person)s to %(school_class)s"),
    "student_left_class": _("removed %(person)s from %(school_class)s"),
    "code_opened": _("opened a join code for %(school_class)s"),
    "code_closed": _("closed the join code of %(school_class)s"),
    "joined_by_code": _("joined %(school_class)s by its code"),
    "invited": _("invited somebody as %(role)s"),
    "invitation_accepted": _("accepted an invitation as %(role)s"),
    "slips_printed": _("printed sign-in slips for %(n)s people"),
    "slip_used": _("signed in with a slip and chose a password"),
    "signed_in": _("signed in"),
    "locked_out": _("was locked out after wrong passwords"),
    "password_changed": _("changed the password"),
    "session_ended": _("ended another session"),
    "second_factor_on": _("switched the second factor on"),
    "second_factor_off": _("switched the second factor off"),
    "second_factor_removed": _("switched the second factor of %(person)s off"),
    "exercise_given": _("gave “%(title)s” to %(school_class)s"),
    "given_changed": _("changed how “%(title)s” is given to %(school_class)s"),
    "given_withdrawn": _("withdrew “%(title)s” from %(school_class)s"),
    "given_restored": _("gave “%(title)s” to %(school_class)s again, after it was withdrawn"),
    "given_closed": _("closed “%(title)s” of %(school_class)s"),
    "given_reopened": _("opened “%(title)s” of %(school_class)s again"),
    "given_arranged": _("arranged “%(title)s” for %(person)s"),
    "students_reminded": _("reminded %(n)s students of “%(title)s”"),
    "exercise_deleted": _("deleted the exercise “%(title)s”"),
    "exercise_brought_back": _("brought the exercise “%(title)s” back"),
    "column_deleted": _("deleted the column “%(name)s” of %(school_class)s"),
    "mark_changed": _("changed a mark of %(person)s: %(criterion)s"),
    "said_of_note": _("said how a note or bar of %(person)s counts"),
    "mark_released": _("released a mark of %(person)s"),
    "release_taken_back": _("took the release of a mark of %(person)s back"),
    "asked_again": _("asked %(person)s for another take"),
    "rubric_kept": _("marked “%(title)s” again with another rubric"),
    "retention_done": _("deleted takes of past terms: %(n)s"),
}
