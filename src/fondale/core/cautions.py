# SPDX-License-Identifier: MIT
"""Cautions by what the work is: its tool, coat, glue, material, what feeds it and what it is called. They defer to labels, local rules and licensed
people.
"""

import re
from collections.abc import Iterable, Iterator
from functools import cache
from typing import Any

from fondale.core.coat_kinds import coat_row
from fondale.core.fits.glue import glues_for
from fondale.core.how import PRACTICE, How, Told
from fondale.core.materials import traits
from fondale.core.model import (
    FITS,
    JOINS,
    LAMPS,
    PIECES,
    PRINTS,
    STRINGS,
    SUPPLIES,
    SURFACES,
    Case,
    Fit,
    Join,
    Lamp,
    Listing,
    Project,
    Step,
    String,
    Supply,
)
from fondale.core.prints.jobs import PrintJob
from fondale.core.prints.printers import machine_of
from fondale.core.stage.cutting import cut_list
from fondale.knowledge import table

Facts = set[tuple[str, str]]
ROWS = {
    "coat": ("coats", "coat"), "glue": ("joins", "glue"), "tool": ("tools", "tool"), "cell": ("electric", "cell"), "plug": ("electric", "plug"),
    "machine": ("machines", "machine"), "led": ("electric", "led"),
}  # fmt: skip
KINDS = {"what": "word"}  # a second word that a rule wants beside the first
_WORD = re.compile(r"[^\W_]+")


def cautions_of(project: Project, step: Step) -> tuple[str, ...]:
    """The keys of the cautions that a step brings, the worst first."""
    return _of_facts(set(_facts(project, step)), f"{step.name} {step.note}")


def cautions_of_supply(supply: Supply) -> tuple[str, ...]:
    """What a plug or cells bring."""
    return cautions_of_row(supply.section, supply.row)


def cautions_of_lamp(lamp: Lamp) -> tuple[str, ...]:
    """What a lamp brings by its kind and its motion."""
    return _of_facts({("led", lamp.led), ("motion", lamp.motion)})


def cautions_of_fit(fit: Fit) -> tuple[str, ...]:
    """What making a fit brings."""
    return _of_facts({("fit", fit.kind)})


def cautions_of_case(case: Case) -> tuple[str, ...]:
    """What sawing the boards and cutting the panes of a case bring."""
    stuffs = {table("materials")["case"][panel.stuff] for panel in cut_list(case)}
    return _of_facts({("tool", "saw"), *(("is", trait) for stuff in stuffs for trait in traits(stuff))}) if stuffs else ()


def cautions_of_string(project: Project, string: String) -> tuple[str, ...]:
    """What wiring a string brings: the iron, what feeds it, and its lamps."""
    return cautions_of(project, Step(id="wire", name="Wire", work="wire", tool="iron", strings=(string.id,)))


def cautions_of_row(kind: str, key: str) -> tuple[str, ...]:
    """What a row brings by itself: a ``coat``, ``glue``, ``tool``, ``cell``, ``plug`` or ``machine``; nothing for one that is unknown."""
    return _of_facts({(kind, key)})


def cautions_of_load(grams: float) -> tuple[str, ...]:
    """What the weight of a whole piece brings."""
    return ("heavy",) if grams >= table("cautions")["heavy"]["grams"] else ()


def caution_words(keys: Iterable[str]) -> tuple[str, ...]:
    """The full text of each."""
    known = table("cautions")["caution"]
    return tuple(str(known[k]["text"]) for k in keys if k in known)


def cautions_told(keys: tuple[str, ...]) -> Told:
    """The heads of cautions in a line, and their texts."""
    known = table("cautions")["caution"]
    heads = list(dict.fromkeys(str(known[k]["head"]) for k in keys))
    said = "; ".join(heads)
    return Told(f"Care: {said}" if said else "", How("Take care", "\n".join(caution_words(keys)), "", f"{PRACTICE}; labels, local rules and licensed people come first"))  # fmt: skip


def job_cautions(job: PrintJob) -> tuple[str, ...]:
    """What printing a file brings; nothing where it is ordered."""
    return _of_facts({("process", job.process), ("duty", "print")}) if job.hours else ()


def _sides(join: Join) -> Iterator[tuple[str, str]]:
    yield from (("joined", trait) for side in (join.a, join.b) for trait in traits(side))


def _facts(project: Project, step: Step) -> Iterator[tuple[str, str]]:
    """What a step is and touches: kind of fact and value."""
    yield "tool", step.tool
    yield "work", step.work
    yield "duty", step.duty.rstrip(" 0123456789")
    row = coat_row(step.coat)
    if row is not None:
        yield "coat", step.coat
        yield "role", row["role"]
        yield "thinner", row["thinner"]
    for material in _materials(project, step):
        yield from (("is", trait) for trait in traits(material))
    for join in _found(project, JOINS, step.joints):
        if step.duty == "scrape":
            continue
        yield from _sides(join)
        best = next(iter(glues_for(join)), None)
        if best is not None and row is None:
            yield "glue", best.key
    yield from (("fit", fit.kind) for fit in _found(project, FITS, step.fits))
    strings = _found(project, STRINGS, step.strings)
    wired = {*step.wires, *(i for s in strings for i in s.lamps)}
    lamps = _found(project, LAMPS, (*wired, *step.tests))
    strings += [s for s in project.strings if wired & set(s.lamps) or set(step.tests) & set(s.lamps)]
    for supply in _found(project, SUPPLIES, [s.supply for s in strings]):
        yield supply.section, supply.row
    for lamp in lamps:
        yield "led", lamp.led
        yield "motion", lamp.motion
    if step.tests:
        yield "lamp", "tested"
    machine = next((m for m in project.brief.machines if m.id == step.machine), None)
    if machine is not None:
        yield "machine", machine.row
    file = project.find(PRINTS, step.file) if step.file else None
    if file is not None:
        process = table("machines")["machine"].get(machine_of(project, file).row, {}).get("process", "")
        yield "process", str(process)


def _materials(project: Project, step: Step) -> Iterator[str]:
    """What the faces and pieces are of that a step works on."""
    faces = _found(project, SURFACES, step.surfaces)
    yield from (f.material for f in faces if f.material)
    joined = (p for j in _found(project, JOINS, step.joints) for p in j.pieces) if step.duty == "scrape" else ()
    pieces = _found(project, PIECES, (*step.pieces, *joined, *(f.piece for f in faces if not f.material)))
    yield from (p.material for p in pieces if p.material)


def _found(project: Project, listing: Listing[Any], idents: Iterable[str]) -> list[Any]:
    return [m for i in idents if i and (m := project.find(listing, i)) is not None]


def _of_facts(facts: Facts, called: str = "") -> tuple[str, ...]:
    """The keys that facts and words bring, in the order of the table."""
    known = table("cautions")
    words = [w.lower() for w in _WORD.findall(called)]
    facts |= {("word", w) for w in words}
    facts |= {("act", act["does"]) for act in known["act"] if _meets(act, facts)}
    out = {c for rule in known["when"] if _meets(rule, facts) for c in rule["cautions"]}
    for kind, key in facts:
        if kind in ROWS:
            name, section = ROWS[kind]
            out.update(table(name)[section].get(key, {}).get("cautions", ()))
    text = f" {' '.join(words)} "
    out.update(key for key, phrases in _said().items() if any(p in text for p in phrases))
    return tuple(key for key in known["caution"] if key in out)


def _meets(rule: dict[str, Any], facts: Facts) -> bool:
    """Whether every kind that a rule names is met by a fact."""
    wants = ((KINDS.get(kind, kind), values) for kind, values in rule.items() if kind not in ("cautions", "does"))
    return all(any((kind, value) in facts for value in values) for kind, values in wants)


@cache
def _said() -> dict[str, tuple[str, ...]]:
    return {key: tuple(f" {p} " for p in row.get("said", ())) for key, row in table("cautions")["caution"].items()}
