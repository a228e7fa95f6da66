"""What all tools of the Bench are: a form that says what the core is to do."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import Any, ClassVar

from django import forms
from django.utils.translation import gettext, pgettext_lazy
from django.utils.translation import gettext_lazy as _

from ear.conventions import PLAIN, Conventions
from ear.editing.edited import ALL, Edited, Selection
from ear.measuring.grid import GRID_STEPS
from ear.notes import Hand, Instrument, Part
from oido.common.forms import FormData

VALUES = (
    (1920, "semibreve"), (1440, "dotted minim"), (960, "minim"), (720, "dotted crotchet"), (480, "crotchet"),
    (360, "dotted quaver"), (240, "quaver"), (160, "quaver triplet"), (120, "semiquaver"), (80, "semiquaver triplet"),
    (60, "demisemiquaver"),
)  # fmt: skip
"""Note values in ticks, by their British names, which `named` translates."""
GRIDS = tuple((ticks, name) for ticks, name in VALUES if ticks in GRID_STEPS)


def named(values: Iterable[tuple[int, str]], conventions: Conventions) -> list[tuple[int, str]]:
    """Return note values with the names that a school gives them, translated."""
    return [(ticks, gettext(conventions.value_name(name))) for ticks, name in values]


HAND_CHOICES = ((Hand.RIGHT.value, _("right hand")), (Hand.LEFT.value, _("left hand")))


def whole_field(
    label: Any, least: int, most: int, initial: int | None = None, **more: Any
) -> forms.IntegerField:
    return forms.IntegerField(label=label, min_value=least, max_value=most, initial=initial, **more)


class ValueField(forms.TypedChoiceField):
    """A choice of note values, named by `name_values`; `before` and `after` are choices besides."""

    def __init__(
        self, *, values: Sequence[tuple[int, str]] = VALUES, before: Sequence[Any] = (), after: Sequence[Any] = (),
        **more: Any,
    ) -> None:  # fmt: skip
        self.values, self.before, self.after = values, before, after
        super().__init__(coerce=int, **more)
        self.name_by(PLAIN)

    def name_by(self, conventions: Conventions) -> None:
        self.choices = [*self.before, *named(self.values, conventions), *self.after]


def value_field(label: Any, values: Sequence[tuple[int, str]] = VALUES, initial: int = 480) -> ValueField:
    return ValueField(label=label, values=values, initial=initial)


def name_values(form: forms.BaseForm, conventions: Conventions) -> None:
    """Name the note values in a form's choices by the school's convention, in the reader's language."""
    for field in form.fields.values():
        if isinstance(field, ValueField):
            field.name_by(conventions)


def hand_named(value: str) -> Hand | None:
    return Hand(value) if value else None


Others = Mapping[str, tuple[str, Callable[[], Part]]]
"""Other exercises of the same kind, by key: title, and how to read the part."""
NO_OTHERS: Others = MappingProxyType({})
Stored = Callable[[int, str], Part | None]
"""A state by its row, of this working copy or of another one that is named; None where it is not kept any more."""


class Tool(forms.Form):
    """A tool is filled in, checked, and made to work on the part and the notes that are picked.

    `apply` may raise any EarError: the page shows it beside the tool.
    """

    slug: ClassVar[str]
    title: ClassVar[Any]
    button: ClassVar[Any] = pgettext_lazy("use a tool", "Apply")
    needs: ClassVar[str] = ""
    """A property of the instrument without which the tool makes no sense."""
    asks_others: ClassVar[bool] = False
    """Needs other exercises to choose from."""

    def __init__(
        self,
        data: FormData = None,
        *,
        part: Part,
        selected: Selection = ALL,
        conventions: Conventions = PLAIN,
        others: Others = NO_OTHERS,
        stored: Stored = lambda state_id, of: None,
        **more: Any,
    ) -> None:
        super().__init__(data, auto_id=f"{self.slug}-%s", **more)
        self.part, self.selected, self.conventions, self.others = part, selected, conventions, others
        self.stored = stored
        self.fit(part)
        name_values(self, conventions)

    @classmethod
    def serves(cls, instrument: Instrument) -> bool:
        return not cls.needs or getattr(instrument, cls.needs)

    def fit(self, part: Part) -> None:
        """Set limits and starting values by the part and what is picked."""

    def apply(self, part: Part, selected: Selection) -> Edited:
        """Apply the tool to the part. Each tool implements this."""
        raise NotImplementedError

    def foretold(self, part: Part, selected: Selection) -> dict[str, object]:
        """Return what to say before the tool is used, besides what the page shows."""
        return {}

    def after(self, part: Part, selected: Selection) -> "Tool":
        """Return the tool as it is shown after use, with its form still filled in."""
        return self
