# SPDX-License-Identifier: MIT
"""Print services: the port, and three invented ones that quote as differently as real ones do."""

from dataclasses import dataclass
from typing import Protocol


@dataclass(frozen=True)
class Request:
    """What a service is asked for: volume in ml of one copy as it is printed, the box in mm of its largest part, the least wall in mm (0: solid),
    material, number of copies, and into how many parts each is cut.
    """

    volume_ml: float
    box_mm: tuple[float, float, float]
    wall_mm: float
    process: str
    copies: int
    parts: int = 1


@dataclass(frozen=True)
class Quote:
    """An answer: money with postage, working days until it is here, which share of their parcels comes up to ``late_days`` later, and what they
    say; ``refused`` where they cannot.
    """

    service: str
    price: float
    days: int
    words: str
    refused: bool = False
    late_days: int = 0
    late_share: float = 0.0


class PrintService(Protocol):
    """What a print service on a wire offers."""

    @property
    def name(self) -> str:
        """What it is called."""
        ...

    def quote(self, request: Request) -> Quote:
        """A price for a request, or a refusal with its reason."""
        ...


@dataclass(frozen=True)
class SimulatedService:
    """A fee an order, a price a millilitre and a piece, postage; a least wall and a largest side."""

    name: str
    fee: float
    per_ml: float
    per_piece: float
    postage: float
    days: int
    least_wall_mm: float
    largest_mm: float
    late_days: int = 0
    late_share: float = 0.0

    def quote(self, request: Request) -> Quote:
        side = max(request.box_mm)
        if side > self.largest_mm:
            return Quote(self.name, 0.0, 0, f"too large: {side:.0f} mm, they take {self.largest_mm:.0f}", refused=True)
        if 0 < request.wall_mm < self.least_wall_mm:
            return Quote(self.name, 0.0, 0, f"wall of {request.wall_mm:g} mm too thin, they ask {self.least_wall_mm:g}", refused=True)
        rate = self.per_ml * (1.0 if request.process == "resin" else 0.45)
        price = self.fee + request.copies * (self.per_piece * request.parts + rate * request.volume_ml) + self.postage
        pieces = request.copies * request.parts
        words = f"{pieces} {'piece' if pieces == 1 else 'pieces'}, here in {self.days} working days"
        return Quote(self.name, round(price, 2), self.days, words, late_days=self.late_days, late_share=self.late_share)


SERVICES: tuple[PrintService, ...] = (
    SimulatedService("Lantern Yard Prints", 4.0, 0.62, 1.2, 5.9, 6, 0.8, 300.0, 3, 0.2),
    SimulatedService("Ebbtide Layerworks", 0.0, 1.10, 0.5, 3.5, 3, 0.5, 190.0, 2, 0.1),
    SimulatedService("Kiln & Comb", 9.0, 0.38, 2.0, 7.4, 11, 1.0, 650.0, 7, 0.3),
)
