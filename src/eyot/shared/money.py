"""Amounts of money in the keeper's currency, written by Babel's data (ISO 4217, CLDR)."""

from __future__ import annotations

from decimal import ROUND_HALF_EVEN, Decimal, InvalidOperation
from functools import cache

from babel import Locale
from babel.numbers import format_currency, get_currency_precision

LOCALE = Locale("en", "GB")
MOST = Decimal(1_000_000_000)


class NoAmount(ValueError):
    """Not an amount of a currency; the message says why."""


@cache
def currencies() -> frozenset[str]:
    """The codes of all currencies, read when they are first asked for: it takes as long as many a page."""
    return frozenset(code for code in map(str, LOCALE.currencies) if len(code) == 3 and code.isupper())


def amount(text: str, currency: str) -> Decimal | None:
    """What was typed, None where nothing was. :class:`NoAmount` where it can't be: also for parts that a currency does not have.

    >>> amount("1250.50", "EUR"), amount("", "EUR")
    (Decimal('1250.50'), None)
    """
    typed = text.strip().replace(" ", "").replace("\u00a0", "")
    if not typed:
        return None
    if typed.count(",") == 1 and "." not in typed:
        whole, _, parts = typed.partition(",")
        typed = f"{whole}.{parts}" if len(parts) != 3 else whole + parts
    typed = typed.replace(",", "")
    try:
        value = Decimal(typed)
    except InvalidOperation:
        raise NoAmount(f"“{text.strip()[:40]}” is not an amount such as 250.") from None
    if not value.is_finite() or not 0 <= value < MOST:
        raise NoAmount(f"A price lies between 0 and {MOST:,}, not at {text.strip()[:40]}.")
    digits = get_currency_precision(currency)
    if value != value.quantize(Decimal(1).scaleb(-digits), ROUND_HALF_EVEN):
        parts = f"at most {digits} digits behind the point" if digits else "no parts"
        raise NoAmount(f"{currency} has {parts}; “{text.strip()[:40]}” has more.")
    return value


def money(value: Decimal | None, currency: str) -> str:
    """An amount as it is written; empty where there is none.

    >>> money(Decimal("250"), "EUR"), money(Decimal("39000"), "JPY")
    ('€250', 'JP¥39,000')
    """
    if value is None:
        return ""
    digits = get_currency_precision(currency)
    pattern = "¤#,##0" if value == value.to_integral_value() or not digits else f"¤#,##0.{'0' * digits}"
    return format_currency(value, currency, pattern, locale=LOCALE, currency_digits=False)
