# SPDX-License-Identifier: MIT
"""What a file takes: hours, material and money on the machines at hand, whether it stands, and what it costs ordered out."""

from datetime import datetime, timedelta
from functools import partial

from PySide6.QtWidgets import QVBoxLayout

from fondale.core.cautions import caution_words, job_cautions
from fondale.core.derived import BALANCES, BANK, JOBS, LEDGER, WEARS
from fondale.core.edits.boxes import add_machine
from fondale.core.model import PrintFile
from fondale.core.order.plan import runs_of
from fondale.core.prints.balance import tip_told
from fondale.core.prints.jobs import PrintJob, all_plates, job_told, mesh_of
from fondale.core.prints.lines import lines_of, nearest_eye_mm
from fondale.core.prints.printers import machine_of, machine_rows
from fondale.core.prints.thin import thin_words
from fondale.core.words import day_words, digits, hours_words, percent
from fondale.instruments import Bar, run_bank
from fondale.qt.furniture.columns import Columns
from fondale.qt.furniture.how import HowButton
from fondale.qt.furniture.prose import Prose
from fondale.qt.furniture.rows import action, headed, heading, line_of, menu_button
from fondale.qt.session import Session
from fondale.qt.stations.bench.print_drawing import BankDrawing
from fondale.qt.stations.bench.print_quotes import Quotes


class Takes(Columns):
    """The numbers on the left, the printers in the middle, quotes on the right."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._night = 0
        self._ran: tuple[object, tuple[Bar, ...]] = (None, ())
        self.quotes = Quotes(session)
        super().__init__(20, (self._what_it_takes(), 8), (self._bank(), 9), (self.quotes, 7))

    def show_file(self, file: PrintFile | None, job: PrintJob | None) -> None:
        """Show a file with its job, or nothing."""
        book = self.session.results[LEDGER]
        self._show_bank()
        self.hours.setVisible(job is not None)
        self.tip.setVisible(False)
        if file is None:
            self.quotes.show_file(None, None)
            self._takes.setText("")
            return
        if job is None or book is None:
            return
        self.hours.show_told(job_told(job))
        balance = self.session.results.one(BALANCES, file.id)
        self.tip.setVisible(balance is not None and file.watertight)
        if balance is not None:
            self.tip.show_told(tip_told(balance))
        caution = " ".join(caution_words(job_cautions(job)))
        stands = balance.words if balance is not None and file.watertight else "Its body is open: no weight, no centre of mass."
        project = self.session.project
        shape, machine = mesh_of(project, file), machine_of(project, file)
        wear = self.session.results.one(WEARS, machine.id)
        here = file.ordered is None
        layers = f", {job.layers} layers" if here else ""
        said = [
            f"{digits(job.body_ml, 1)} ml{f' of {digits(job.volume_ml, 1)}' if file.hollow_mm else ''}, {digits(job.weight_g, 1)} g{layers}.",
            stands, thin_words(file), lines_of(file, shape, job.layer_mm, nearest_eye_mm(project)).words if shape is not None and here else "",
            f"{machine.name}, {wear.words}." if wear is not None and here else "",
        ]  # fmt: skip
        self._takes.setText(f"{' '.join(s for s in said if s)}\n{caution}")
        self.quotes.show_file(file, job)

    def _what_it_takes(self) -> QVBoxLayout:
        column = headed("What it takes", 2)
        self.hours, self.tip = HowButton(), HowButton()
        for button in (self.hours, self.tip):
            column.addLayout(line_of(button))
        self._takes = Prose("soft")
        column.addWidget(self._takes)
        column.addStretch(1)
        return column

    def _bank(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(2)
        row, _note = heading("The printers")
        rows = machine_rows()
        row.addWidget(menu_button("Add…", [(str(r["name"]), partial(self._add_machine, k)) for k, r in rows.items()]))
        row.addWidget(action("Run a night", self.run_night, "Simulated printers: what fails is printed again"))
        column.addLayout(row)
        self.bank = BankDrawing(self.session)
        column.addWidget(self.bank, 1)
        self._bank_words = Prose("soft")
        column.addWidget(self._bank_words)
        return column

    def _add_machine(self, row: str) -> None:
        self.session.do(add_machine(self.session.project, row))

    def run_night(self) -> None:
        project, known, bank = self.session.project, self.session.results[JOBS], self.session.results[BANK]
        if known is None or bank is None or not project.prints:
            return
        self._night += 1
        bars: list[Bar] = []
        plates = all_plates(project, known)
        for names in dict.fromkeys(p.machines for p in plates):
            jobs = [(p.lead, p.hours, p.success) for p in plates if p.machines == names]
            bars += run_bank([self.session.instruments.printer(n, self._night) for n in names], jobs[:400])
        self._ran = (bank, tuple(bars))
        self._show_bank()

    def _show_planned(self, planned: tuple[tuple[str, str, datetime, datetime], ...]) -> None:
        """The runs as the running order has them."""
        first = planned[0][2]
        hour = timedelta(hours=1)
        self.bank.show_bars(tuple(Bar(m, f, (a - first) / hour, (b - first) / hour, True) for m, f, a, b in planned))
        project = self.session.project
        handed = {s.file for s in project.steps}
        left = sum(project.lead_of(f).id not in handed for f in project.prints)
        rest = f" {left} of {len(project.prints)} files are not among the steps yet." if left else ""
        self._bank_words.setText(f"As the running order has it, from {day_words(first.date())} {first:%H:%M} on.{rest}")

    def _show_bank(self) -> None:
        bank = self.session.results[BANK]
        if bank is None or not self.session.project.prints:
            self.bank.show_bars(())
            self._bank_words.setText("")
            return
        ran = self._ran[1] if self._ran[0] == bank else ()
        plan = self.session.results.order
        planned = runs_of(self.session.project, plan) if plan is not None else ()
        if planned and not ran:
            self._show_planned(planned)
            return
        self.bank.show_bars(ran or tuple(Bar(m, j, a, b, True) for m, j, a, b in bank.bars))
        if not bank.bars:
            self._bank_words.setText("Nothing is printed here: all is ordered out.")
            return
        failed = sum(not b.good for b in ran)
        night = f" This night: {failed} failed, done after {hours_words(max(b.end for b in ran))}." if ran else ""
        chance = percent(0.9)
        self._bank_words.setText(
            f"{hours_words(bank.work_h)} of printing; done after {hours_words(bank.half_h)} half the time, {hours_words(bank.ninety_h)} in {chance} of runs.{night}"
        )
