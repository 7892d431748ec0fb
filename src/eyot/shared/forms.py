"""Forms: what is typed becomes values; what can't be read is told beside its field, and everything typed stays.

A view reads its form by :func:`entered`, which refuses what can't be read. :func:`~eyot.shared.refusal.refusals_on` shows the page
again; the page takes the form that was sent from the refusal by :func:`as_sent`, or draws a fresh one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from datetime import date
from typing import Any, TypeVar

from django import forms
from django.core.exceptions import ValidationError
from django.forms.renderers import TemplatesSetting
from django.forms.utils import ErrorList
from django.http import HttpRequest
from django.utils import timezone
from django.utils.choices import CallableChoiceIterator

from eyot.shared.refusal import Refused
from eyot.shared.units import implausible, typed_days

MOST, LONGEST_WHOLE = 9999, 20
"""The largest whole number that any form takes, and in how many digits it may be written."""


class Renderer(TemplatesSetting):
    """Forms and fields drawn in our own way."""

    form_template_name = "shared/forms/form.html"
    field_template_name = "shared/forms/field.html"


class Errors(ErrorList):
    """What is wrong with a field, beside it."""

    template_name = "shared/forms/errors.html"


class EntryForm(forms.Form):
    """What is entered at once. ``about``: which of several forms of its kind on a page it is."""

    stands = "Nothing was changed."
    """What is said after what is wrong."""

    def __init__(self, data: Mapping[str, Any] | None = None, files: Any = None, *, about: object = "", **more: Any):
        name = f"{type(self).__name__.lower()}{about}"
        super().__init__(data, files, auto_id=f"{name}-%s", label_suffix="", error_class=Errors, **more)
        self.about = str(about)

    def values(self) -> dict[str, Any]:
        """What was entered. :class:`Refused`, with this form, for the first field that can't be read."""
        if self.is_valid():
            return self.cleaned_data
        field, messages = next(iter(self.errors.items()))
        label = self.name_of(field)
        raise Refused(f"{label}: {messages[0]} {self.stands}" if label else f"{messages[0]} {self.stands}", form=self)

    def name_of(self, field: str) -> str:
        """How a field is called in what is said of it."""
        if field not in self.fields:
            return ""
        bound = self.fields[field]
        words = getattr(bound, "called", "") or bound.label or bound.widget.attrs.get("aria-label", field)
        return str(words)[:1].upper() + str(words)[1:]


Entry = TypeVar("Entry", bound=EntryForm)


def sent(request: HttpRequest, form: type[Entry], **more: Any) -> Entry:
    """The form that was sent. The request keeps it, for a refusal that comes later from what was done with it."""
    request.entered = bound = form(request.POST, **more)  # type: ignore[attr-defined]
    return bound


def entered(request: HttpRequest, form: type[Entry], **more: Any) -> dict[str, Any]:
    """What was entered on a form. :class:`Refused`, with the form, where something can't be read."""
    return sent(request, form, **more).values()


def as_sent(refused: Refused | None, form: type[Entry], *, about: object = "", **more: Any) -> Entry:
    """The form as it was sent where it is what was refused, else a fresh one."""
    if refused and type(refused.form) is form and refused.form.about == str(about):
        refused.form.initial = more.get("initial", {})
        return refused.form
    return form(about=about, **more)


class Called(forms.Field):
    """A field that may be ``called`` otherwise in what is said of it than on the page; without a label where none is given."""

    def __init__(self, **more: Any) -> None:
        self.called: str = more.pop("called", "")
        super().__init__(**{"label": ""} | more)


class DayField(Called, forms.DateField):
    """A day; none where nothing was typed. ``words``: what it is called where the page shows no label."""

    def __init__(self, **more: Any) -> None:
        words = more.pop("words", "")
        attrs = {"type": "date"} | ({"aria-label": words} if words else {})
        widget = forms.DateInput(format="%Y-%m-%d", attrs=attrs)
        super().__init__(**{"required": False, "widget": widget} | more)

    def to_python(self, value: Any) -> date | None:
        """The day, or what is wrong with it."""
        self.input_formats = typed_days()
        try:
            day = super().to_python(value)
        except ValidationError:
            raise ValidationError(f"“{value}” is not a day; write it as 2026-05-31.") from None
        if words := implausible(day):
            raise ValidationError(words)
        return day


class TodayField(DayField):
    """A day; today where nothing was typed, and shown until another is chosen."""

    def __init__(self, **more: Any) -> None:
        super().__init__(**{"initial": timezone.localdate, "called": "Day"} | more)

    def clean(self, value: Any) -> date:
        """The day."""
        return super().clean(value) or timezone.localdate()


class WholeField(Called):
    """A whole number from 0 to 9999; 0 where nothing was typed."""

    def __init__(self, *, size: int = 3, **more: Any) -> None:
        widget = forms.TextInput(attrs={"inputmode": "numeric", "size": size})
        super().__init__(**{"required": False, "widget": widget} | more)

    def to_python(self, value: Any) -> int:
        """The number."""
        text = str(value or "").strip()
        if text and not (text.isdecimal() and len(text) <= LONGEST_WHOLE and int(text) <= MOST):
            raise ValidationError(f"“{text}” is not a number.")
        return int(text or 0)


class DecimalField(Called):
    """A number with a decimal point or comma, with or without its unit. ``otherwise``: what counts where nothing was typed."""

    def __init__(
        self, *, example: str, unit: str = "", otherwise: float | None = None, size: int = 5, **more: Any
    ) -> None:
        self.example, self.unit, self.otherwise = example, unit, otherwise
        widget = forms.TextInput(attrs={"inputmode": "decimal", "size": size})
        super().__init__(**{"required": otherwise is None, "widget": widget} | more)

    def clean(self, value: Any) -> float:
        """The number. What is infinite or no number is refused."""
        text = str(value or "").strip()
        if not text and self.otherwise is not None:
            return self.otherwise
        try:
            number = float(text.lower().removesuffix(self.unit).strip().replace(",", "."))
        except ValueError:
            number = math.nan
        if not math.isfinite(number):
            raise ValidationError(f"“{text}” is not {self.example}.")
        return number


class LineField(Called, forms.CharField):
    """A line of text without space at its ends, empty where nothing was typed; what is too long is cut."""

    def __init__(self, longest: int, **more: Any) -> None:
        self.longest = longest
        super().__init__(**{"required": False, "widget": forms.TextInput(attrs={"maxlength": longest})} | more)

    def to_python(self, value: Any) -> str:
        """The text."""
        return str(super().to_python(value) or "")[: self.longest]


class ChosenField(Called, forms.CharField):
    """One of some choices, as it was sent: whether it can be is for the action to say."""

    def __init__(
        self,
        choices: Iterable[tuple[str, str]] | Callable[[], Iterable[tuple[str, str]]],
        *,
        words: str = "",
        **more: Any,
    ) -> None:
        offered = CallableChoiceIterator(choices) if callable(choices) else [*choices]
        widget = forms.Select(choices=offered, attrs={"aria-label": words} if words else {})
        super().__init__(**{"required": False, "widget": widget} | more)
