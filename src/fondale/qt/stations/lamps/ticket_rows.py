# SPDX-License-Identifier: MIT
"""What the ticket shows of a lamp, a string, a supply, a meter, an area or a moment."""

from collections.abc import Callable
from functools import partial
from typing import Any, TypeVar, get_args

from fondale.core.directions import parse_direction, show_direction
from fondale.core.edits import put
from fondale.core.edits.wiring import set_supply, wire_lamp
from fondale.core.model import AREAS, LAMPS, METERS, STRINGS, SUPPLIES, Listing, Project, Spot
from fondale.core.model.lamps import Motion, Wiring
from fondale.core.words import digits
from fondale.knowledge import table
from fondale.qt.furniture.fields import Choice, Field, length_field, number, place_field, up_field, words
from fondale.qt.furniture.finder import Several
from fondale.qt.furniture.ticket import Row
from fondale.qt.session import Session

T = TypeVar("T")
WIRED: dict[Wiring, str] = {"series": "one after the other", "group": "side by side"}


class TicketRows:
    """Builds rows for one thing; every field sets the spot that it shows."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def of(self, listing: Listing[Any], ident: str) -> list[Row]:
        """The rows of a thing: its name, and what belongs to its kind."""
        thing = self._session.project.find(listing, ident)
        if thing is None:
            return []
        spot: Spot[Any] = listing.at(ident).then(lambda t: t.name)
        renamed = Field("name", words(1, 120), str, self._session.setter(spot, "Rename")).caption_width(34)
        kinds: dict[Listing[Any], Callable[[str, str], list[Row]]] = {
            LAMPS: self._lamp, STRINGS: self._string, SUPPLIES: self._supply, METERS: self._meter, AREAS: self._area,
        }  # fmt: skip
        more = kinds.get(listing)
        return [(renamed, spot.find), *(more(ident, thing.name) if more else [])]

    def _spot(self, caption: str, spot: Spot[float], name: str) -> Row:
        return place_field(caption, self._session.setter(spot, f"Move {name}"), 74).caption_width(34), spot.find

    def _number(
        self, caption: str, spot: Spot[float], label: str, least: float, most: float, unit: str, places: int = 0
    ) -> tuple[Field, Callable[[Project], float | None]]:
        gap = "" if unit == "°" else " "
        show = lambda v: f"{digits(v, places)}{gap}{unit}"  # noqa: E731
        return Field(caption, number(least, most, unit), show, self._session.setter(spot, label), 84 if unit != "°" else 74), spot.find

    def _choice(
        self, caption: str, options: list[tuple[T, str]] | Callable[[], list[tuple[T, str]]], spot: Spot[T], label: str
    ) -> tuple[Choice, Callable[[Project], Any]]:
        return Choice(caption, options, self._session.setter(spot, label)), spot.find

    def string_options(self) -> list[tuple[str, str]]:
        """Every string that a lamp can hang on."""
        return [("", "not wired"), *((s.id, s.name) for s in self._session.project.strings)]

    def _lamp(self, ident: str, name: str) -> list[Row]:
        lamp = LAMPS.at(ident)
        led, read_led = self._choice("LED", partial(_electric, "led"), lamp.then(lambda m: m.led), f"LED of {name}")
        kind = table("electric")["led"].get(self._session.project.get(LAMPS, ident).led, {})
        built = self._choice("built as", partial(_electric, "package"), lamp.then(lambda m: m.package), f"What {name} is built as")
        angle, read_angle = self._number("angle", lamp.then(lambda m: m.angle_deg), f"Angle of {name}", 5, 360, "°")
        motions: list[tuple[Motion, str]] = [(m, m) for m in get_args(Motion)]
        motion, read_motion = self._choice("motion", motions, lamp.then(lambda m: m.motion), f"Motion of {name}")
        string = Choice(
            "string", self.string_options(), lambda v: self._session.do(*wire_lamp(self._session.project, ident, v))
        ).caption_width(44)

        def string_of(p: Project) -> str:
            return next((s.id for s in p.strings if ident in s.lamps), "")

        x, y, z = lamp.then(lambda m: m.x), lamp.then(lambda m: m.y), lamp.then(lambda m: m.z)
        pieces = [("", "nothing"), *((p.id, p.name) for p in self._session.project.pieces)]
        seed, rate = lamp.then(lambda m: m.seed), lamp.then(lambda m: m.flashes_per_s)
        set_seed = self._session.setter(seed, f"Seed of {name}")
        seen = [(False, "a light"), (True, "meant to be seen")]
        moving = self._session.project.get(LAMPS, ident).motion != "steady"
        rows: list[Row] = [
            self._spot("x", x, name), self._spot("y", y, name), self._spot("z", z, name),
            (led.caption_width(34), read_led), *([] if "body" in kind else [built]), (angle.caption_width(44), read_angle), (motion.caption_width(44), read_motion),
            (string, string_of), self._aim(LAMPS, ident, ("ax", "ay", "az"), "aims", name),
            self._choice("in", pieces, lamp.then(lambda m: m.piece), f"What {name} is built into"),
            self._choice("it is", seen, lamp.then(lambda m: m.meant_to_be_seen), f"How {name} is seen"),
        ]  # fmt: skip
        if moving:
            rows += [
                (Field("seed", number(0, 2**31), lambda v: digits(v, 0), lambda v: set_seed(round(v)), 84), seed.find),
                self._number("flashes", rate, f"Flashes of {name}", 0, 50, "/s", 2),
            ]
        return rows

    def _aim(self, listing: Listing[Any], ident: str, axes: tuple[str, str, str], caption: str, name: str) -> Row:
        """A direction, in words and degrees."""

        def aim(value: tuple[float, float, float]) -> None:
            thing = listing.at(ident).find(self._session.project)
            if thing is not None:
                self._session.do(put(listing.at(ident), thing.but(**dict(zip(axes, value, strict=True))), f"Aim {name}"))

        def read(project: Project) -> tuple[float, ...] | None:
            thing = listing.at(ident).find(project)
            return tuple(getattr(thing, a) for a in axes) if thing is not None else None

        field = Field(caption, parse_direction, lambda v: show_direction(*v) if v else "", aim, 120)
        field.setToolTip("down, up, left, right, back, front, back and down; or 30° down to the left; 30° down, turned 20°")
        return field, read

    def _string(self, ident: str, name: str) -> list[Row]:
        string = STRINGS.at(ident)
        supplies = [(s.id, s.name) for s in self._session.project.supplies]
        awg = string.then(lambda s: s.awg)
        set_awg = self._session.setter(awg, f"Wire of {name}")
        return [
            self._number("resistor", string.then(lambda s: s.resistor_ohm), f"Resistor of {name}", 0, 1e7, "Ω", 1),
            self._choice("wired", list(WIRED.items()), string.then(lambda s: s.wiring), f"Wiring of {name}"),
            self._number("wire", string.then(lambda s: s.wire_mm), f"Wire of {name}", 0, 100_000, "mm"),
            self._choice("supply", supplies, string.then(lambda s: s.supply), f"Supply of {name}"),
            (Field("gauge", number(10, 46, "AWG"), lambda v: f"{digits(v, 0)} AWG", lambda v: set_awg(round(v)), 84), awg.find),
            (Several("lamps", self._lamps, lambda: self._hung(ident), lambda i: self._hang(ident, i)), lambda _p: None),
            (
                Several("turned round", lambda: self._own(ident), lambda: self._hung(ident, True), lambda i: self._turn(ident, i)),
                lambda _p: None,
            ),
        ]

    def _lamps(self) -> list[tuple[str, str]]:
        return [(m.id, m.name) for m in self._session.project.lamps]

    def _own(self, ident: str) -> list[tuple[str, str]]:
        own = self._hung(ident)
        return [(i, name) for i, name in self._lamps() if i in own]

    def _hung(self, ident: str, turned: bool = False) -> tuple[str, ...]:
        string = self._session.project.find(STRINGS, ident)
        return () if string is None else string.reversed if turned else string.lamps

    def _hang(self, ident: str, lamp: str) -> None:
        self._session.do(*wire_lamp(self._session.project, lamp, "" if lamp in self._hung(ident) else ident))

    def _turn(self, ident: str, lamp: str) -> None:
        now = self._hung(ident, True)
        spot = STRINGS.at(ident).then(lambda s: s.reversed)
        self._session.do(put(spot, tuple(x for x in now if x != lamp) if lamp in now else (*now, lamp), "Turn a lamp round"))

    def _supply(self, ident: str, name: str) -> list[Row]:
        supply = self._session.project.get(SUPPLIES, ident)
        kind = Choice("it is a", partial(_electric, supply.section), lambda row: self._set_supply(ident, row, None))
        out: list[Row] = [(kind, SUPPLIES.at(ident).then(lambda s: s.row).find)]
        if supply.kind == "cells":
            spot = SUPPLIES.at(ident).then(lambda s: s.count)
            count = Field("cells in series", number(1, 24), lambda v: digits(v, 0), lambda v: self._set_supply(ident, None, round(v)), 60)
            out.append((count, spot.find))
        return out

    def _set_supply(self, ident: str, row: str | None, count: int | None) -> None:
        project = self._session.project
        supply = project.get(SUPPLIES, ident)
        edit = self._session.make(set_supply, supply, row or supply.row, count or supply.count)
        if edit:
            self._session.do(edit)

    def _meter(self, ident: str, name: str) -> list[Row]:
        meter = METERS.at(ident)
        x, y, z = meter.then(lambda m: m.x), meter.then(lambda m: m.y), meter.then(lambda m: m.z)
        wanted = self._number("wanted", meter.then(lambda m: m.wanted_lx), f"Wanted light at {name}", 0, 1e6, "lx")
        return [
            self._spot("x", x, name),
            self._spot("y", y, name),
            self._spot("z", z, name),
            wanted,
            self._aim(METERS, ident, ("nx", "ny", "nz"), "faces", name),
        ]

    def _area(self, ident: str, name: str) -> list[Row]:
        area = AREAS.at(ident)
        spots, z = (("x", area.then(lambda a: a.x)), ("y", area.then(lambda a: a.y))), area.then(lambda a: a.z)
        sizes = (("wide", area.then(lambda a: a.width)), ("deep", area.then(lambda a: a.depth)))
        even = area.then(lambda a: a.wanted_u0)
        wanted = Field(
            "wanted", number(0, 1), lambda v: f"{digits(v, 2)} even" if v else "any", self._session.setter(even, f"Evenness of {name}"), 84
        )
        wanted.setToolTip("How even: the least light over the mean, from 0 to 1")
        return [
            *(self._spot(caption, spot, name) for caption, spot in spots),
            (up_field("z", "lies", self._session.setter(z, f"Move {name}"), 74).caption_width(34), z.find),
            *(
                (length_field(caption, self._session.setter(spot, f"Size of {name}"), self._house, 74).caption_width(34), spot.find)
                for caption, spot in sizes
            ),
            (wanted, even.find),
        ]

    def _house(self) -> float:
        return self._session.project.brief.house_n


def _electric(section: str) -> list[tuple[str, str]]:
    return [(k, str(v["name"])) for k, v in table("electric")[section].items()]


def string_row(rows: list[Row]) -> Choice | None:
    """The choice of a lamp's string among rows: its options change while the lamp stays."""
    return next((w for w, read in rows if isinstance(w, Choice) and getattr(read, "__name__", "") == "string_of"), None)
