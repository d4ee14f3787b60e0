# SPDX-License-Identifier: MIT
"""What stands in each table: its sections, their columns with units, what a row may hold, and the rows that the maker has of his own."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

from fondale.core.circuit.diode import fit_diode
from fondale.core.model import Project
from fondale.core.model.own import OwnRow
from fondale.core.words import digits
from fondale.knowledge import hold, shipped, table

Kind = Literal["words", "number", "numbers", "pairs", "one", "several", "yes"]
Row = dict[str, Any]
Choices = tuple[str, ...] | Callable[[], Iterable[str]]
MEMORY = "From memory or common practice, no source"


@dataclass(frozen=True)
class Column:
    """One value of a row: its key, what it is called, its unit; bounds of numbers, how many there are (0: any), and whether they rise (1) or
    fall (-1); what words may be chosen from. ``needed``: no row is without it. ``shown``: in the list of rows too.
    """

    key: str
    words: str
    kind: Kind = "number"
    unit: str = ""
    low: float = 0.0
    high: float = 1e9
    count: int = 0
    way: int = 0
    choices: Choices = ()
    needed: bool = True
    shown: bool = False


@dataclass(frozen=True)
class Section:
    """A part of a table whose rows are alike. ``own``: the maker can make rows of it. ``note``: what else must be known of it. ``drawn``: the value by
    which its rows are drawn side by side; empty: the first that is shown.
    """

    table: str
    section: str
    title: str
    question: str
    columns: tuple[Column, ...]
    own: bool = False
    note: str = ""
    drawn: str = ""
    check: Callable[[Row], str] | None = None

    @property
    def name(self) -> str:
        """By which it is known."""
        return f"{self.table}.{self.section}" if self.section else self.table


def words(key: str, caption: str, shown: bool = False, needed: bool = True) -> Column:
    """A column of plain words."""
    return Column(key, caption, "words", needed=needed, shown=shown)


def some(key: str, caption: str, unit: str, low: float, high: float, shown: bool = False, needed: bool = True) -> Column:
    """A column of one number."""
    return Column(key, caption, "number", unit, low, high, needed=needed, shown=shown)


def _cautions() -> Iterable[str]:
    return tuple(table("cautions")["caution"])


def _materials() -> Iterable[str]:
    """What glues and coats name: materials, and what materials are."""
    return dict.fromkeys((*table("materials")["material"], *(t for r in table("materials")["material"].values() for t in r["is"])))


def _traits() -> Iterable[str]:
    return dict.fromkeys(t for r in shipped("materials")["material"].values() for t in r["is"])


NAME = words("name", "name")
CAUTIONS = Column("cautions", "cautions", "several", choices=_cautions, needed=False)
HOURS = {"unit": "h", "low": 0.0, "high": 5000.0, "count": 3, "way": 1}


def _led(row: Row) -> str:
    try:
        fit_diode(tuple((v, ma / 1000) for v, ma in row["points"]))
    except ValueError as error:
        return f"Volts and milliamperes: {error}."
    return ""


def _cell(row: Row) -> str:
    if len({len(row[k]) for k in ("depth", "emf_v", "ohm")}) > 1:
        return "Depths, volts and ohms: as many of the one as of the others."
    return "" if (row["depth"][0], row["depth"][-1]) == (0, 1) else "Depths go from 0 to 1."


def _outline(row: Row) -> str:
    count = {"cylinder": 2, "rod": 2, "dome": 2}.get(row["outline"], 3)
    return "" if len(row["real"]) == count else f"A {row['outline']} has {count} sizes."


COAT = (
    NAME, words("means", "what it is", needed=False), Column("called", "also called", "several", choices=(), needed=False),
    Column("dry_h", "dry: touch, next coat, hard", "numbers", shown=True, **HOURS),  # type: ignore[arg-type]
    some("seal_h", "before varnish", "h", 0, 5000, needed=False), some("film_um", "film", "µm", 0, 100_000, shown=True), some("brushed_um", "film by brush", "µm", 0, 100_000, needed=False),
    some("min_c", "least temperature", "°C", -40, 60, shown=True), some("most_rh", "most humidity, sprayed", "%", 0, 100, needed=False),
    Column("thinner", "thinned with", "one", choices=("water", "alcohol", "spirit", "lacquer", "none"), shown=True),
    Column("lifts_with", "lifted by", "several", choices=("water", "alcohol", "spirit", "lacquer"), shown=True), Column("lifts_itself", "a brushed second coat lifts it", "yes", needed=False),
    Column("humidity", "damp air slows it", "yes"), Column("eats", "attacks bare", "several", choices=_materials, needed=False),
    Column("sticky_on", "never dries on bare", "several", choices=_materials, needed=False), Column("frosts", "its fumes frost clear parts", "yes", needed=False), CAUTIONS,
    Column("role", "does the work of", "one", choices=("primer", "colour", "shade", "wash", "streaks", "gloss", "varnish", "decal", "liftoff", "pigment", "ground", "glue", "filler", "sanding")),
    Column("work", "kind of work", "one", choices=("build", "paint", "weather")), Column("sprayed", "may be sprayed", "yes"), Column("colour", "gives the colour", "yes"),
    Column("hatch", "drawn as", "one", choices=("plain", "slant", "lines", "wave", "sheen", "dots")), some("takes", "takes of the last film", "", 0, 1, needed=False),
    some("set_up_min", "to set up", "min", 0, 600, needed=False), some("per_100cm2_min", "for each 100 cm²", "min", 0, 600, needed=False), some("each_min", "for each part", "min", 0, 600, needed=False),
)  # fmt: skip
LED = (
    NAME, Column("points", "volts and mA", "pairs", "V, mA", 0.001, 10_000, count=0, shown=True), some("max_ma", "bears", "mA", 0.1, 10_000, shown=True),
    some("candela", "light, 120° wide", "cd", 0, 10_000, shown=True), some("peak_nm", "peak", "nm", 200, 1100, needed=False), some("width_nm", "width", "nm", 1, 400, needed=False),
    some("cct_k", "colour temperature", "K", 1000, 20_000, needed=False, shown=True), Column("rgb", "red, green, blue", "numbers", "", 0, 1, count=3),
    Column("body", "body of its own", "one", choices=("line", "flat"), needed=False),
    some("across", "goes through a hole of", "mm", 0.05, 200, needed=False), some("long", "as deep as", "mm", 0.05, 2000, needed=False), CAUTIONS,
)  # fmt: skip
CELL = (
    NAME, Column("depth", "emptied", "numbers", "", 0, 1, way=1), Column("emf_v", "Volts at rest", "numbers", "V", 0.1, 100, way=-1, shown=True), Column("ohm", "ohms", "numbers", "Ω", 0, 10_000, way=1),
    some("capacity_mah", "holds", "mAh", 1, 1e6, shown=True), some("cutoff_v", "empty at", "V", 0.1, 100, shown=True), some("continuous_ma", "bears for long", "mA", 0.1, 100_000, shown=True), CAUTIONS,
)  # fmt: skip
PLUG = (
    NAME, some("volts", "gives", "V", 0.5, 60, shown=True), some("ohm", "its own resistance", "Ω", 0.001, 100), some("limit_ma", "bears", "mA", 1, 100_000, shown=True),
    some("least_ma", "sleeps under", "mA", 0, 10_000, needed=False, shown=True), CAUTIONS,
)  # fmt: skip
NEEDS = ("hold", "adjust", "fast", "take apart", "see through")
GLUE = (
    NAME, Column("one", "one side", "several", choices=_materials, shown=True), Column("other", "other side", "several", choices=_materials, needed=False, shown=True), Column("never", "never on", "several", choices=_materials, needed=False),
    Column("needs", "serves to", "several", choices=NEEDS, shown=True), words("prepare", "how"), Column("hours", "work, handle, full", "numbers", shown=True, **HOURS),  # type: ignore[arg-type]
    words("beware", "beware"), CAUTIONS,
)  # fmt: skip
SOURCE = Column("source", "source", "words", needed=False)
SECTIONS: tuple[Section, ...] = (
    Section("coats", "coat", "Coats", "What does this coat do, and over what may it go?", COAT, True, "Times at 20 °C and 50 % humidity. " + MEMORY),
    Section("joins", "glue", "Ways to join", "What holds these two together?", GLUE, True, "The first that holds a pair is proposed; your own come last. " + MEMORY),
    Section("materials", "material", "Materials", "What is it made of, and what does that weigh?",
        (NAME, some("density", "density", "g/cm³", 0.001, 25, shown=True), Column("is", "it is", "several", choices=_traits, shown=True), words("prepare", "before gluing", needed=False)), True, "Densities from memory of handbooks"),
    Section("electric", "led", "LEDs", "What does this lamp take, and what does it give?", LED, True, "From memory of data sheets; colours follow from peak or temperature", "candela", _led),
    Section("electric", "package", "What lamps are built as", "How small may it be, and how bright is it then?",
        (NAME, some("share", "light of a 5 mm one", "", 0, 10, shown=True), some("max_ma", "bears", "mA", 0.1, 10_000, needed=False, shown=True), some("across", "goes through", "mm", 0.05, 200, shown=True), some("long", "as deep as", "mm", 0.05, 2000, shown=True)), True, "From memory of data sheets"),
    Section("electric", "cell", "Cells", "How many volts has it, and for how long?", CELL, True, "Volts at rest, from memory of makers’ charts", "capacity_mah", _cell),
    Section("electric", "plug", "Plugs", "What feeds the lamps from outside?", PLUG, True, MEMORY),
    Section("tools", "tool", "Tools", "What is it done with, and how long does that take?",
        (words("name", "name", needed=False), Column("called", "also called", "several", needed=False), some("set_up", "to set up", "min", 0, 600, shown=True), some("per_100cm2", "for each 100 cm²", "min", 0, 600, shown=True), CAUTIONS), True, "Minutes from memory, no source"),
    Section("scales", "things", "Sizes in life", "How large is it in life, and how far do such things differ?",
        (NAME, some("real_mm", "real size", "mm", 0.1, 1e7, shown=True), some("spread", "they differ by", "of it", 0.001, 1, shown=True), SOURCE), True, "Spread: one relative standard deviation"),
    Section("things", "thing", "Outlines of things", "What else could this part be, at another scale?",
        (NAME, Column("outline", "outline", "one", choices=("cylinder", "rod", "dome", "box", "plate"), shown=True), Column("real", "real sizes", "numbers", "mm", 0.1, 1e7, shown=True), SOURCE), True, MEMORY, "", _outline),
    Section("body", "worn", "What is worn", "How much do hats and soles add?", (NAME, some("real_mm", "adds", "mm", 0, 2000, shown=True), Column("on_head", "within the head", "yes", needed=False)), True, MEMORY),
    Section("fits", "grade", "Magnets", "How strong is it?", (NAME, some("tesla", "magnetised to", "T", 0.01, 3, shown=True)), True, "Middles of what is sold, from memory"),
    Section("fits", "process", "Air by how it is made", "How much air does a face need?", (NAME, some("least", "least", "mm", 0, 5, shown=True), some("most", "most", "mm", 0, 5, shown=True)), False, MEMORY),
    Section("machines", "machine", "Machines", "What can it make, and how fast?",
        (NAME, Column("build", "room", "numbers", "mm", shown=True), some("layer_mm", "layer", "mm", 0, 5, shown=True), some("flow", "flow", "mm³/s", 0, 100, shown=True), some("layer_s", "a layer", "s", 0, 100, shown=True), CAUTIONS), False,
        "What your own printer has otherwise is typed under Brief, House rules. " + MEMORY),
    Section("scales", "scale", "Scales", "Which scales have a name?", (some("n", "1 to", "", 1, 2000, shown=True), words("name", "name", True), Column("gauge_mm", "its tracks", "numbers", "mm", shown=True), SOURCE), False, "Railway scales by NEM 010 and NMRA S-1.2, from memory"),
    Section("body", "people", "People", "How tall are they?", (NAME, some("mean_mm", "mean stature", "mm", 0, 3000, shown=True), some("sd_mm", "standard deviation", "mm", 0, 500, shown=True), SOURCE), False, "The published statures are of smokers in the United States, 1971"),
    Section("body", "details", "Sizes taken on a body", "Which share of the stature is it?", (NAME, some("share", "of the stature", "", 0, 3, shown=True), some("spread", "sculptures differ by", "", 0, 1, shown=True)), False, "Drillis and Contini 1966, where a segment is named"),
    Section("body", "poses", "Poses", "How far do figures differ in a pose?", (NAME, some("spread", "figures differ by", "", 0, 1, shown=True)), False, "Forms by eye; a pose is no row to copy"),
    Section("body", "sayings", "Sizes said by people", "How high is “hip high”?", (some("share", "of the stature", "", 0, 3, shown=True), some("spread", "meant within", "", 0, 1, shown=True)), False, "Segments by Drillis and Contini 1966"),
    Section("beasts", "beast", "Beasts", "Which forms are there?", (words("like", "like", True),), False, "Forms by eye; sizes stand under Sizes in life"),
    Section("beasts", "bird", "Birds", "Which forms are there?", (words("like", "like", True),), False, "Forms by eye; sizes stand under Sizes in life"),
    Section("furniture", "", "Furniture", "How large is it?", (words("words", "name"), Column("real", "wide, deep, high", "numbers", "mm", shown=True)), False, "Each piece is as large as you make it. " + MEMORY),
    Section("cautions", "caution", "Cautions", "What must be watched?", (words("head", "in short", True), words("text", "in full", True)), False, "Labels, local rules and licensed people come first"),
    Section("sources", "", "Sources", "Where are facts and formulas from?", (words("by", "by", True), some("year", "year", "", 0, 3000, shown=True), words("title", "title", True)), False, ""),
)  # fmt: skip
BY_NAME = {s.name: s for s in SECTIONS}


def rows_of(section: Section) -> dict[str, Row]:
    """Every row of a section by its key, the shipped ones first."""
    found: Any = table(section.table)
    found = found[section.section] if section.section else found
    return {f"1:{digits(r['n'], 2)}": r for r in found} if isinstance(found, list) else found


def row_name(key: str, row: Row) -> str:
    """What a row is called."""
    return str(row.get("name") or row.get("words") or row.get("by") or key)


def is_own(key: str) -> bool:
    """Whether a row is the maker's own."""
    return key.startswith("own_")


def source_of(section: Section, row: Row) -> str:
    """Where a row is from."""
    return str(row.get("source") or section.note)


def shown(column: Column, value: Any) -> str:
    """A value in words, with its unit; nothing for none."""
    match column.kind:
        case "yes":
            return "yes" if value else "no"
        case "numbers":
            told = " ".join(digits(x, 3) for x in value or ())
        case "pairs":
            told = ", ".join(f"{digits(a, 3)} {digits(b, 3)}" for a, b in value or ())
        case "several":
            return ", ".join(value or ())
        case "number":
            told = digits(value, 4) if value is not None else ""
        case _:
            return str(value or "")
    return f"{told} {column.unit}".strip() if told and column.unit and column.kind != "pairs" else told


def trouble_with(section: Section, row: Row) -> str:
    """What is wrong with a row of a section, in words for the maker; empty: nothing. Shipped rows and the maker's own are held to the same."""
    columns = {c.key: c for c in section.columns}
    strange = next((k for k in row if k not in columns and k != "source"), None)
    if strange is not None:
        return f"“{strange}” is nothing that {section.title.lower()} have."
    for column in section.columns:
        if column.key not in row:
            if column.needed:
                return f"It needs: {column.words}."
            continue
        wrong = wrong_with(column, row[column.key])
        if wrong:
            return f"{column.words[0].upper()}{column.words[1:]}: {wrong}"
    return section.check(row) if section.check is not None else ""


def wrong_with(column: Column, value: Any) -> str:
    """What is wrong with a value of a column; empty: nothing."""
    match column.kind:
        case "words":
            return "" if isinstance(value, str) and (value or not column.needed) else "words are needed."
        case "yes":
            return "" if isinstance(value, bool) else "yes or no."
        case "one":
            return "" if value in allowed(column) else f"one of {', '.join(allowed(column))}."
        case "several":
            may = allowed(column)
            if not isinstance(value, list | tuple) or not all(isinstance(v, str) for v in value):
                return "a list of words."
            other = next((v for v in value if may and v not in may), None)
            return f"“{other}” is not known." if other is not None else ""
        case "number":
            return _wrong_number(column, value)
        case "numbers":
            return _wrong_numbers(column, value)
        case "pairs":
            if (
                not isinstance(value, list | tuple)
                or not 2 <= len(value) <= 3
                or not all(isinstance(p, list | tuple) and len(p) == 2 for p in value)
            ):
                return "two or three pairs."
            return next((w for pair in value for x in pair if (w := _wrong_number(column, x))), "")
    return ""


def allowed(column: Column) -> tuple[str, ...]:
    """The words that a column may hold; nothing where any may stand."""
    return tuple(column.choices() if callable(column.choices) else column.choices)


def _wrong_number(column: Column, value: Any) -> str:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        return "a number is needed."
    return (
        ""
        if column.low <= value <= column.high
        else f"between {digits(column.low, 3)} and {digits(column.high, 3)}{' ' + column.unit if column.unit else ''}."
    )


def _wrong_numbers(column: Column, value: Any) -> str:
    if not isinstance(value, list | tuple) or not value or (column.count and len(value) != column.count):
        return f"{column.count or 'some'} numbers are needed."
    wrong = next((w for x in value if (w := _wrong_number(column, x))), "")
    if wrong or not column.way:
        return wrong
    ordered = all((b - a) * column.way >= 0 for a, b in pairwise(value))
    return "" if ordered else "each more than the one before." if column.way > 0 else "each less than the one before."


def content_of(own: OwnRow) -> Row:
    """What an own row puts into its table."""
    return {**own.values, "name": own.name, **({"source": own.source} if own.source else {})}


def in_force(project: Project, also: Iterable[OwnRow] = ()) -> None:
    """The own rows of a project hold from now on in this process, and ``also`` others that it has none of. What is not as the shipped rows are is
    left out, and whatever names it is told as unknown.
    """
    mine = {row.id for row in project.own}
    found: dict[tuple[str, str], dict[str, Row]] = {}
    for own in (*project.own, *(row for row in also if row.id not in mine)):
        section = BY_NAME.get(f"{own.table}.{own.section}")
        if section is not None and section.own and not trouble_with(section, content_of(own)):
            found.setdefault((own.table, own.section), {})[own.key] = content_of(own)
    hold(found)
