# SPDX-License-Identifier: MIT
"""Printers: the rows of their table, and what the maker says of his own."""

from typing import Any

from fondale.core.model import Machine, PrintFile, Project
from fondale.core.model.brief import OwnPrinter
from fondale.knowledge import table


def machine_rows(process: str = "") -> dict[str, dict[str, Any]]:
    """Rows of the table of machines, all printers' or one process's."""
    rows = table("machines")["machine"]
    return {k: r for k, r in rows.items() if (r["process"] == process if process else "build" in r)}


def row_of(machine: Machine) -> dict[str, Any]:
    """What a printer is: its row of the table, with what the maker says of his own. At one speed of the nozzle what flows goes with the layer."""
    row, own = dict(table("machines")["machine"][machine.row]), machine.own
    if own == OwnPrinter():
        return row
    if own.layer_mm and "flow" in row:
        row["flow"] *= own.layer_mm / row["layer_mm"]
    said = {name: value for name in OwnPrinter.model_fields if (value := getattr(own, name)) and name in row}
    build = [mine or theirs for mine, theirs in zip((own.wide_mm, own.deep_mm, own.high_mm), row["build"], strict=True)]
    return {**row, **said, "build": build}


def house_machine(project: Project) -> Machine:
    """The machine that a new file goes to: the first at hand of the house's process, or any at hand, or a small one."""
    process = project.brief.rules.prints
    at_hand = [m for m in project.brief.machines if m.row in machine_rows()]
    house = [m for m in at_hand if m.row in machine_rows(process)]
    if house or at_hand:
        return (house or at_hand)[0]
    row = "resin_small" if process == "resin" else "filament_small"
    return Machine(id="none", name=table("machines")["machine"][row]["name"], row=row)


def machine_of(project: Project, file: PrintFile) -> Machine:
    """The machine that a file is printed on: the chosen one while it is at hand, else the house's."""
    file = project.lead_of(file)
    chosen = (m for m in project.brief.machines if m.row in machine_rows() and m.id == file.machine)
    return next(chosen, None) or house_machine(project)


def printer_of(project: Project, file: PrintFile) -> dict[str, Any]:
    """What the machine of a file is."""
    return row_of(machine_of(project, file))


def alike(project: Project, machine: Machine) -> tuple[Machine, ...]:
    """The other machines at hand that do what this one does: of its row, and with nothing else of their own."""
    return tuple(m for m in project.brief.machines if (m.row, m.own) == (machine.row, machine.own) and m.id != machine.id)


def any_shown(project: Project, ident: str) -> str:
    """The machine by which ``any_of`` tells those like this one; itself where it has no like."""
    machine = next((m for m in project.brief.machines if m.id == ident), None)
    kind = {machine.id, *(m.id for m in alike(project, machine))} if machine is not None else set()
    return next((m.id for m in project.brief.machines if m.id in kind), ident)


def any_of(project: Project) -> tuple[tuple[Machine, str], ...]:
    """For each kind of which several machines are at hand, the first of them and what any of them is called."""
    rows = table("machines")["machine"]
    firsts = [m for m in project.brief.machines if alike(project, m) and any_shown(project, m.id) == m.id]
    return tuple((m, f"any {rows.get(m.row, {}).get('name', m.name)}") for m in firsts)
