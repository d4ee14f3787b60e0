# SPDX-License-Identifier: MIT
"""What a file costs ordered out: the answers of the services, and the one that was taken."""

from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fondale.core.derived import JOBS, LEDGER
from fondale.core.edits import put
from fondale.core.edits.printing import take_quote
from fondale.core.model import PRINTS, PrintFile
from fondale.core.model.prints import Ordered
from fondale.core.prints.jobs import PrintJob, moneys
from fondale.core.prints.ordering import no_longer_holds, ordered_told
from fondale.core.words import clipped, count_words, digits
from fondale.instruments import Quote, Request
from fondale.qt.furniture.columns import FieldGrid
from fondale.qt.furniture.fields import Field, money_field, number, words
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, clear, heading, line_of
from fondale.qt.session import Session

CAPTION, WIDE = 84, 140


class Quotes(QWidget):
    """A line for each service, with what takes its quote; or the quote that was taken, which can be set right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: tuple[object, ...] = ()
        self._ident = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        head, _note = heading("Ordered out")
        self.by_hand = action("A quote of one’s own", self._by_hand, "Type what a print service wrote")
        self.here = action("Print it here", lambda: self._take(None), "Let the quote go, and print it on a machine at hand")
        for button in (self.by_hand, self.here):
            head.addWidget(button)
        column.addLayout(head)
        self._rows = QVBoxLayout()
        column.addLayout(self._rows)
        self.told = HowButton()
        column.addLayout(line_of(self.told))
        self.fields = {
            "service": Field("from", words(1, 120), str, partial(self._set, "service"), WIDE),
            "price": money_field("in all", 1e7, lambda: session.project.brief.currency, partial(self._set, "price"), WIDE),
            "days": Field("working days", number(0, 365, "d"), lambda v: digits(v, 0), partial(self._set, "days"), WIDE),
            "late_days": Field("late by", number(0, 365, "d"), lambda v: count_words(v, "day"), partial(self._set, "late_days"), WIDE),
            "late_share": Field(
                "come late", number(0, 100, "%"), lambda v: f"{digits(v * 100, 0)} %", lambda v: self._set("late_share", v / 100), WIDE
            ),
        }
        self._grid = FieldGrid(2)
        self._grid.fill([f.caption_width(CAPTION) for f in self.fields.values()])
        column.addWidget(self._grid)
        self._words = Prose("soft")
        column.addWidget(self._words)
        column.addStretch(1)

    def show_file(self, file: PrintFile | None, job: PrintJob | None) -> None:
        """Show what a file would cost elsewhere, or what it does."""
        self._ident = file.id if file is not None else ""
        taken = file.ordered if file is not None else None
        quotes = self._asked(file, job) if file is not None and job is not None and taken is None else []
        self.by_hand.setVisible(file is not None and taken is None)
        for widget in (self.here, self._grid):
            widget.setVisible(taken is not None)
        self.told.setVisible(taken is not None)
        own = moneys(self.session.project, self.session.results[JOBS] or {}).get(self._ident, 0.0)
        self._show_lines(quotes, own)
        if file is None or job is None:
            self._words.setText("Three services answer here when there is a file." if file is None else "")
            return
        currency = self.session.project.brief.currency
        if taken is not None:
            self.told.show_told(ordered_told(taken, currency))
            for name, field in self.fields.items():
                field.set_value(getattr(taken, name))
            changed = no_longer_holds(file, job.body_ml, job.parts)
            self._words.setText(f"The quote does not hold any more: {changed}. Ask again." if changed else "")
            return
        left = self._left()
        said = [f"On your own machine: {digits(own, 2)} {currency}."]
        if left is not None:
            said.append(f"{digits(left, 2)} {currency} of the cap are left." if left > 0 else "Nothing of the cap is left.")
        self._words.setText(" ".join(said))

    def _left(self) -> float | None:
        book, cap = self.session.results[LEDGER], self.session.project.brief.cap
        return cap - book.total if cap and book is not None else None

    def _asked(self, file: PrintFile, job: PrintJob) -> list[Quote]:
        request = Request(job.body_ml, job.largest, file.hollow_mm, job.process, file.count, job.parts)
        return [service.quote(request) for service in self.session.instruments.services]

    def _show_lines(self, quotes: list[Quote], own: float) -> None:
        """The rows anew where they say something else."""
        left = self._left()
        if (self._ident, left, own, *quotes) == self._shown:
            return
        self._shown = (self._ident, left, own, *quotes)
        clear(self._rows, ())
        currency = self.session.project.brief.currency
        for quote in quotes:
            row = QHBoxLayout()
            over = " – over what is left of the cap" if left is not None and not quote.refused and quote.price > left + own else ""
            said = quote.words if quote.refused else f"{digits(quote.price, 2)} {currency}, {quote.words.partition(', ')[2]}{over}"
            row.addWidget(Prose("", f"{quote.service}: {said}"), 1)
            if not quote.refused:
                tip = f"Have it printed by {quote.service}"
                row.addWidget(action("Take it", partial(self._take, quote), tip))
            holder = QWidget()
            holder.setLayout(row)
            row.setContentsMargins(0, 0, 0, 0)
            self._rows.addWidget(holder)

    def _take(self, quote: Quote | None) -> None:
        file = self.session.project.find(PRINTS, self._ident)
        job = self.session.results.one(JOBS, self._ident)
        if file is None or job is None:
            return
        taken = None
        if quote is not None:
            taken = Ordered(
                service=quote.service, price=quote.price, days=quote.days, late_days=quote.late_days, late_share=quote.late_share,
                for_ml=job.body_ml, for_copies=file.count, for_parts=job.parts,
            )  # fmt: skip
        self._put(taken)

    def _by_hand(self) -> None:
        self._put(Ordered(service="Print service"))

    def _put(self, taken: Ordered | None) -> None:
        edits = self.session.make(take_quote, self._ident, taken)
        if edits is not None:
            self.session.do(*edits)

    def _set(self, name: str, value: Any) -> None:
        file = self.session.project.find(PRINTS, self._ident)
        if file is not None and file.ordered is not None:
            new = file.ordered.but(**{name: round(value) if name.endswith("days") else value})
            self.session.do(put(PRINTS.at(file.id).then(lambda f: f.ordered), new, f"Quote of {clipped(file.name, 40)}"))
