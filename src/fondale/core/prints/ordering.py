# SPDX-License-Identifier: MIT
"""Prints that are ordered out: when they come, what they cost, and whether a quote that was taken still holds."""

from math import ceil

from fondale.core.how import How, Told
from fondale.core.model import PrintFile
from fondale.core.model.prints import Ordered
from fondale.core.words import count_words, digits, percent

SAME_ML = 0.01  # a quote holds for a volume within this share


def wait_days(days: int) -> int:
    """Calendar days that so many working days can last, whatever the day of the order: two days off after every five."""
    return days + 2 * ceil(days / 5)


def wait_h(ordered: Ordered) -> float:
    """Hours between an order and its parcel when nothing is late."""
    return 24.0 * wait_days(ordered.days)


def ordered_told(ordered: Ordered, currency: str) -> Told:
    """What an order comes to and when it is here: ``31.2 €, here within 17 days``."""
    late = (
        f"; {percent(ordered.late_share)} of parcels come up to {count_words(ordered.late_days, 'day')} later" if ordered.late_days else ""
    )
    within = f"{digits(ordered.price, 2)} {currency}, here within {count_words(wait_days(ordered.days), 'day')}"
    formula = (
        f"{count_words(ordered.days, 'working day')} + 2 days off after every five = {count_words(wait_days(ordered.days), 'day')} at most{late}\n"
        "money: as the service quoted it, for all copies and with postage"
    )
    return Told(within, How("Ordered out", formula, within, "the quote that was taken"))


def no_longer_holds(file: PrintFile, body_ml: float, parts: int) -> str:
    """Why the quote that was taken is for something else than the file now is; "" while it holds, or where nothing was asked."""
    quote = file.ordered
    if quote is None or not quote.for_ml:
        return ""
    if abs(body_ml / quote.for_ml - 1) > SAME_ML:
        return f"it was for {digits(quote.for_ml, 1)} ml, and the file has {digits(body_ml, 1)}"
    if (quote.for_copies, quote.for_parts) != (file.count, parts):
        was, now = (
            f"{n} {'copy' if n == 1 else 'copies'} of {count_words(k, 'part')}"
            for n, k in ((quote.for_copies, quote.for_parts), (file.count, parts))
        )
        return f"it was for {was}, now it is {now}"
    return ""
