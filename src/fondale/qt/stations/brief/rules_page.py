# SPDX-License-Identifier: MIT
"""The house rules as pairs of plain sentences, and the machines at hand."""

from collections.abc import Callable
from functools import partial
from operator import attrgetter
from typing import Any

from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QLabel, QPushButton, QRadioButton, QVBoxLayout, QWidget

from fondale.core.derived import EFFECTS
from fondale.core.edits import put
from fondale.core.edits.boxes import add_machine, drop_machine
from fondale.core.limits import LARGEST_MM
from fondale.core.model import MACHINES, PROJECT, Machine
from fondale.core.words import digits
from fondale.knowledge import table
from fondale.qt.furniture.columns import Columns, FieldGrid
from fondale.qt.furniture.fields import Field, money_field, number, words
from fondale.qt.furniture.pages import Page
from fondale.qt.furniture.prose import Line, Prose, literal
from fondale.qt.furniture.rows import clear, heading, menu_button
from fondale.qt.session import Session, Way

# What both schools say, and what each choice changes in what is proposed.
RULES = (
    ("resistors", "Resistors", ("always", "Every string gets a resistor."), ("cells without", "Cells may go without.")),
    ("order", "Joining", ("whole", "Join it, then paint it as one."), ("pieces", "Paint every part, then join them.")),
    ("ageing", "Ageing", ("nice first", "Paint it as new, then age it."), ("aged at once", "Age each part once it is painted.")),
    ("weathering", "Dirt", ("layers", "Many kinds, one over the other."), ("less", "Little, with calm places.")),
    ("sizes", "Sizes on boxes", ("crown", "A box tells the crown."), ("eyes", "A box tells the eyes.")),
    ("prints", "Prints", ("resin", "Parts are printed in resin."), ("filament", "Parts are printed in filament.")),
    ("tolerance", "Fits", ("measured", "Sizes are measured on the parts."), ("mock-up", "Sizes are off a mock-up: more air.")),
    ("paint", "Paint", ("spray", "Coats are sprayed where possible."), ("brush", "Coats are brushed.")),
)  # fmt: skip


OWN_CAPTION = 84


class RulesPage(Page):
    """One row a rule, two sentences each; machines on the right."""

    title = "House rules"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.choices: dict[str, dict[str, QRadioButton]] = {}
        self._effects: dict[str, QLabel] = {}
        self._groups: list[QButtonGroup] = []
        self._lines: dict[tuple[str, str], MachineLine] = {}
        self._spare: dict[tuple[str, str], MachineLine] = {}  # made before the page came on show
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setHorizontalSpacing(8)
        for line, (name, caption, *pair) in enumerate(RULES):
            label = Line("soft", caption)
            grid.addWidget(label, 2 * line, 0)
            group = QButtonGroup(self)
            self.choices[name] = {}
            for column, (value, sentence) in enumerate(pair, 1):
                button = QRadioButton(sentence)
                button.clicked.connect(lambda _c=False, n=name, v=value, c=caption: self._set(n, v, c))
                group.addButton(button)
                self.choices[name][value] = button
                grid.addWidget(button, 2 * line, column)
            self._groups.append(group)
            effect = Prose("note")
            effect.setContentsMargins(20, 0, 0, 8)
            self._effects[name] = effect
            grid.addWidget(effect, 2 * line + 1, 1, 1, 2)
        grid.setRowStretch(2 * len(RULES), 1)
        grid.setColumnStretch(2, 1)
        right = QVBoxLayout()
        head, _note = heading("Machines at hand")
        rows = table("machines")["machine"]
        head.addWidget(menu_button("Add…", [(r["name"], partial(self._add_machine, k)) for k, r in rows.items()]))
        right.addLayout(head)
        self._machines = QVBoxLayout()
        right.addLayout(self._machines)
        self._none = Prose("soft", "None yet: files are reckoned on a small printer.")
        right.addWidget(self._none)
        right.addStretch(1)
        self.lay_out(Columns(18, (grid, 3), (right, 2)))

    def _add_machine(self, row: str) -> None:
        self.session.do(add_machine(self.session.project, row))

    def _set(self, name: str, value: str, caption: str) -> None:
        self.session.do(put(PROJECT.then(lambda p: p.brief.rules).then(attrgetter(name)), value, f"House rule: {caption.lower()}"))

    def _wanted(self) -> list[tuple[str, str]]:
        return [(m.id, m.row) for m in self.session.project.brief.machines]

    def _prepare(self, key: tuple[str, str]) -> None:
        self._spare[key] = MachineLine(self.session, *key)

    def preparing(self) -> Way:
        yield from (partial(self._prepare, key) for key in self._wanted() if key not in self._lines)

    def refresh(self) -> None:
        """Follow the project."""
        rules = self.session.project.brief.rules
        self.note = "where makers differ, your own way; proposals and prompts follow it"
        for name, options in self.choices.items():
            options[getattr(rules, name)].setChecked(True)
        for name, sentence in (self.session.results[EFFECTS] or {}).items():
            if self._effects[name].text() != sentence:
                self._effects[name].setText(sentence)
        machines = self.session.project.brief.machines
        self._none.setVisible(not machines)
        wanted = self._wanted()
        if wanted != list(self._lines):
            lines = {key: self._lines.get(key) or self._spare.pop(key, None) or MachineLine(self.session, *key) for key in wanted}
            clear(self._machines, lines.values())
            self._lines = lines
            for line in lines.values():
                self._machines.addWidget(line)
                line.show()
        for machine, line in zip(machines, self._lines.values(), strict=True):
            line.follow(machine)


# What a printer of one's own may have otherwise: field, caption, unit (none: money), the most, what of it stands in the table.
OWN: tuple[tuple[str, str, str, float, Callable[[dict[str, Any]], float]], ...] = (
    ("wide_mm", "room across", "mm", LARGEST_MM, lambda r: r["build"][0]),
    ("deep_mm", "to the back", "mm", LARGEST_MM, lambda r: r["build"][1]),
    ("high_mm", "up", "mm", LARGEST_MM, lambda r: r["build"][2]),
    ("layer_mm", "layer", "mm", 2.0, lambda r: r["layer_mm"]),
    ("layer_s", "a layer takes", "s", 600.0, lambda r: r["layer_s"]),
    ("flow", "it draws", "mm³/s", 200.0, lambda r: r["flow"]),
    ("life_h", "it lives", "h", 1e6, lambda r: r["life_h"]),
    ("price_kg", "a kilogram", "", 10_000.0, lambda r: r["price_kg"]),
    ("wear_h", "wear an hour", "", 100.0, lambda r: r["wear_h"]),
)


def _own_field(caption: str, unit: str, most: float, commit: Callable[[Any], object]) -> Field:
    """A number that may be left as the table has it, which is told in grey."""
    parse = number(0, most, unit)
    show = lambda v: f"{digits(v, 3)} {unit}" if v else ""  # noqa: E731
    return Field(caption, lambda text: parse(text) if text.strip() else 0.0, show, commit, 84).caption_width(OWN_CAPTION)


class MachineLine(QWidget):
    """One machine: its name, what it is, how its hours compare with the reckoned ones; of a printer, folded, what is its own."""

    def __init__(self, session: Session, ident: str, kind: str) -> None:
        super().__init__()
        at = MACHINES.at(ident)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        line = QHBoxLayout()
        line.setSpacing(4)
        column.addLayout(line)
        self.own_fields: dict[str, Field] = {}

        def leave() -> None:
            edit = session.make(drop_machine, ident)
            if edit is not None:
                session.do(edit)

        self.name = Field("", words(1, 120), str, session.setter(at.then(lambda m: m.name), "Name a machine"))
        self.name.edit.setAccessibleName("Name of the machine")
        line.addWidget(self.name, 1)
        row = table("machines")["machine"].get(kind, {})
        self._wears = "build" in row
        if self._wears:
            self.run = Field(
                "",
                lambda t: number(0, 1e6, "h")(t.lower().removeprefix(row["wears"])),
                lambda v: f"{row['wears']} {digits(v, 0)} h",
                session.setter(at.then(lambda m: m.run_h), "Hours of a machine"),
                104,
            )
            self.run.edit.setAccessibleName(f"Hours of its {row['wears']}")
            self.run.setToolTip(f"For how many hours its {row['wears']} has run; about {digits(row['life_h'], 0)} are usual")
            line.addWidget(self.run)
            self.own = QPushButton("its own…")
            self.own.setCheckable(True)
            self.own.setToolTip("Its pace, and its room, layer, speed, life and prices where they are not those of its kind")
            line.addWidget(self.own)
            sheet = FieldGrid(2)

            def currency() -> str:
                return session.project.brief.currency

            pace = session.setter(at.then(lambda m: m.pace), "Pace of a machine")
            self.pace = Field("pace", number(0.05, 20), lambda v: digits(v, 2), pace, 84).caption_width(OWN_CAPTION)
            self.pace.setToolTip("Its real hours against the reckoned ones: 1.1 is a tenth slower")
            for name, caption, unit, most, usual in OWN:
                if name in row or name.removesuffix("_mm") in ("wide", "deep", "high"):
                    spot = at.then(lambda m: m.own).then(attrgetter(name))
                    commit = session.setter(spot, f"Its own {caption}")
                    if unit:
                        field = _own_field(caption, unit, most, commit)
                    else:
                        field = money_field(caption, most, currency, commit, 84).caption_width(OWN_CAPTION)
                    field.edit.setPlaceholderText(f"{digits(usual(row), 2)} {unit or currency()}")
                    self.own_fields[name] = field
            sheet.fill([self.pace, *self.own_fields.values()])
            sheet.hide()
            self.own.toggled.connect(sheet.setVisible)
            column.addWidget(sheet)
        self._drop = QPushButton("×")
        self._drop.clicked.connect(leave)
        line.addWidget(self._drop)

    def follow(self, machine: Machine) -> None:
        """Show the machine as it is."""
        self.name.set_value(machine.name)
        if self._wears:
            self.pace.set_value(machine.pace)
            self.run.set_value(machine.run_h)
            for name, field in self.own_fields.items():
                field.set_value(getattr(machine.own, name))
        self._drop.setAccessibleName(f"No {machine.name} any more")
        self._drop.setToolTip(literal(f"No {machine.name} any more"))
