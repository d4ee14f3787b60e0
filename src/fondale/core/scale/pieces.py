# SPDX-License-Identifier: MIT
"""The readings of pieces: what was measured on one, and what its box claims."""

from fondale.core.bodies.animals import rest_share
from fondale.core.bodies.measures import measures
from fondale.core.bodies.poses import lies
from fondale.core.model import Piece
from fondale.core.model.shapes import Animal, Figure, Mesh, Shape
from fondale.core.scale.combine import Z90, Sighting
from fondale.core.scale.people import OWN_SOURCE, OWN_SPREAD, Person
from fondale.core.scale.reading import Reading, read_body, read_claim, reading_of
from fondale.core.words import percent, show_mm, show_real, show_scale, with_article
from fondale.knowledge import table

SHOWN = 0.01  # what the written ends of an interval may be rounded by: no box is contradicted for less


def read_piece(piece: Piece, house_n: float) -> Reading | None:
    """The reading of a piece, or None where nothing was measured or nothing real is known of it."""
    shape = piece.shape
    if isinstance(shape, Figure | Mesh) and shape.person:
        who = Person(shape.person, piece.real_mm, piece.worn)
        return read_body(
            piece.measure,
            piece.details,
            shape.pose,
            who,
            house_n,
            *((shape.heroic, bool({"coat", "long coat"} & set(shape.extras))) if isinstance(shape, Figure) else ()),
        )
    beast = isinstance(shape, Animal)
    things = table("scales")["things"]
    row = things.get(shape.species if isinstance(shape, Animal) else piece.thing)
    own = piece.real_mm
    spread = OWN_SPREAD if own else float(row["spread"]) if row else 0.0
    natural = 0.0 if own else Z90 * spread  # nobody is wrong for what nine in ten such things are
    sightings: list[Sighting] = []
    source = ""
    if piece.measure is not None and (own or row is not None):
        name, real = (row["name"] if row else piece.name), own or row["real_mm"]
        if isinstance(shape, Animal) and shape.pose == "resting":
            name, real = f"{name}, resting", real * rest_share(shape.species)
        source = OWN_SOURCE if own else row["source"]
        sightings.append(Sighting(name, piece.measure.mm, piece.measure.error_mm, real, spread, "height", beast))
    for d in piece.details:
        if (known := things.get(d.part)) is not None:
            source = source or known["source"]
            sightings.append(Sighting(known["name"], d.mm, d.error_mm, known["real_mm"], known["spread"], "thing", body=False))
    if not sightings:
        return None
    first = sightings[0]
    formula = f"native scale = real {show_real(first.real_mm)} ÷ measured {show_mm(first.mm)}"
    if natural:
        formula += f"\nnine in ten such things are within ±{percent(natural)} of that in life"
    noun = first.name.split(",")[0]
    return reading_of(
        tuple(sightings), 0.0, first.mm, first.real_mm, house_n, lambda n: f"{with_article(noun) if row is not None or piece.measure is None else noun} of {show_real(first.real_mm * house_n / n)}",
        formula, source, natural,
    )  # fmt: skip


def life_mm(shape: Shape) -> float:
    """How high a person or an animal of its kind is in life, in its pose, in mm; 0 for other things."""
    if isinstance(shape, Figure):
        return Person(shape.person).stature[0] * measures(shape.pose, shape.person).crown
    if isinstance(shape, Animal):
        return float(table("scales")["things"][shape.species]["real_mm"]) * (rest_share(shape.species) if shape.pose == "resting" else 1.0)
    return 0.0


def main_size(piece: Piece) -> float | None:
    """The main size in mm as measured, less what is worn, or as the other measurements give it; None where nothing was taken."""
    if piece.measure is not None:
        if isinstance(piece.shape, Figure) and piece.worn and not lies(piece.shape.pose):
            who, ratio = Person(piece.shape.person, piece.real_mm, piece.worn), measures(piece.shape.pose, piece.shape.person).crown
            bare = who.stature[0] * ratio
            return piece.measure.mm * bare / (bare + who.worn_mm)
        return piece.measure.mm
    reading = read_piece(piece, 1.0) if piece.details and isinstance(piece.shape, Figure) else None
    return reading.measured_mm if reading else None


def claim_contradicted(piece: Piece, reading: Reading, school: str) -> str:
    """A polite contradiction of the box, or an empty text where it agrees or claims nothing."""
    claim = read_claim(piece.claim) if piece.claim else None
    if claim is None:
        return ""
    n = claim.to_eyes if claim.nominal and school == "eyes" else claim.to_crown
    if reading.low * (1 - SHOWN) <= n <= reading.high * (1 + SHOWN):
        return ""
    says = f"{piece.claim} ({show_scale(n)})" if claim.nominal else piece.claim
    return f"The box says {says}; it measures {show_scale(reading.n)}."
