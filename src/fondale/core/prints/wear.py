# SPDX-License-Identifier: MIT
"""What wears out on a printer: the hours of its screen or nozzle so far, and those that the files at hand add."""

from collections.abc import Mapping
from dataclasses import dataclass

from fondale.core.model import Project
from fondale.core.prints.jobs import PrintJob, all_plates
from fondale.core.prints.printers import machine_rows, row_of
from fondale.core.words import digits


@dataclass(frozen=True)
class Wear:
    """Hours of one machine's wearing part (``what``): so far, still to come, and after how many it is usually done."""

    machine: str
    what: str
    so_far: float
    adds: float
    life: float

    @property
    def due(self) -> bool:
        """Whether it is done before the files at hand are."""
        return self.so_far + self.adds > self.life

    @property
    def words(self) -> str:
        """``screen: 812 h of about 1500; the files here add 14``."""
        return f"{self.what}: {digits(self.so_far, 0)} h of about {digits(self.life, 0)}; the files here add {digits(self.adds, 0)}"


def wears(project: Project, jobs: Mapping[str, PrintJob]) -> dict[str, Wear]:
    """The wear of every printer at hand by its id; plates that may go on several count for the first of them."""
    adds: dict[str, float] = {}
    for plate in all_plates(project, jobs):
        adds[plate.machines[0]] = adds.get(plate.machines[0], 0.0) + plate.hours / plate.success
    return {
        m.id: Wear(m.id, row["wears"], m.run_h, adds.get(m.name, 0.0), row["life_h"])
        for m in project.brief.machines
        if m.row in machine_rows() and (row := row_of(m))
    }
