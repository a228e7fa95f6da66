"""Errors of the core as a person reads them, beside the field that they concern."""

from django.forms import BaseForm
from django.utils.functional import Promise

from ear.errors import EarError
from ear.words.errors import describe_error
from oido.common.explained import with_explanation
from oido.common.readers import PAGES


class PageProblem(EarError):
    """What only a page can know to be wrong, in the words of its reader."""

    def __init__(self, sentence: str | Promise) -> None:
        self.sentence = str(sentence)
        super().__init__("page", sentence=self.sentence)

    def __str__(self) -> str:
        return self.sentence


def error_message(problem: EarError) -> str:
    return problem.sentence if isinstance(problem, PageProblem) else describe_error(problem, PAGES)


def add_problem(form: BaseForm, problem: EarError, *, otherwise: str | None = None) -> None:
    """Add an error to the field of that name, else to `otherwise`, else to the form, with what explains it."""
    field = problem.field if problem.field in form.fields else otherwise
    form.add_error(field, with_explanation(error_message(problem), problem.code))
