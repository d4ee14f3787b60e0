# SPDX-License-Identifier: MIT
"""Bench and Brief: photographs that disagree, fits after paint, prints that do not go on the machine or do not stand."""

from collections.abc import Iterator

from fondale.core.derived import AIRS, BALANCES, JOBS, PHOTO_READINGS, PULLS, WEARS
from fondale.core.edits import put
from fondale.core.edits.measuring import mend_fit
from fondale.core.edits.printing import ScaleFiles
from fondale.core.fits.air import TINY_MM
from fondale.core.fits.magnets import GRAVITY
from fondale.core.model import FITS, MACHINES, PHOTOS, PIECES, PRINTS, Cut, Project
from fondale.core.model.shapes import Mesh
from fondale.core.prints.balance import SAFE_DEG
from fondale.core.prints.body import BodyError
from fondale.core.prints.cutting import plan_cuts
from fondale.core.prints.jobs import largest_percent, room_of, stretch_words
from fondale.core.prints.ordering import no_longer_holds
from fondale.core.prints.printers import machine_of, printer_of, row_of
from fondale.core.prints.thin import too_thin, where
from fondale.core.prompts.finding import Finding, Fix, Rule
from fondale.core.reckoning import Derived
from fondale.core.words import digits, percent, show_mm, show_real
from fondale.knowledge import table

DRAIN_MM = 3.0  # wide enough for resin to run out of: common practice, no source


def photographs(project: Project, derived: Derived) -> Iterator[Finding]:
    """BRIEF-PHOTO: two declared lengths on one photograph that contradict each other by more than 5 %."""
    for photo in project.photos:
        readings = derived[PHOTO_READINGS].get(photo.id, {})
        for thread in photo.threads:
            reading = readings.get(thread.id)
            if reading is None or reading.off is None or thread.known_mm is None or abs(reading.off) <= 0.05:
                continue
            forget = put(
                PHOTOS.at(photo.id).then(lambda p: p.threads).member(thread.id).then(lambda t: t.known_mm),
                None,
                f"Do not declare {thread.name}",
            )
            yield Finding(
                "BRIEF-PHOTO", "mind", "brief", photo.name,
                f"“{thread.name}” is declared {show_real(thread.known_mm)}, and by what else is known it would be"
                f" {show_real(thread.known_mm * (1 + reading.off))}. One of them is wrong, or they do not lie on the same plane.",
                f"{percent(abs(reading.off))} apart", ((PHOTOS, photo.id),), (Fix(f"Read {thread.name} instead", (forget,)),), within=(thread.id,),
            )  # fmt: skip


def fits(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-FIT: what will not go in, binds or rattles after paint."""
    for fit in project.fits:
        air = derived[AIRS].get(fit.id)
        if air is None or air.verdict == "fits":
            continue
        kind = table("fits")["kind"][fit.kind]
        fixes = [Fix(m.label, (mend_fit(fit, m),)) for m in air.mends[:2]]
        if "mask both faces" in air.ways:
            fixes.insert(
                1, Fix("Mask both faces", (put(FITS.at(fit.id).then(lambda f: f.masked), "both", f"Mask both faces: {fit.name}"),))
            )
        severity = {"will not go in": "stop", "tight": "mind", "loose": "hint"}[air.verdict]
        also = f" Or {', or '.join(air.ways[1:3])}." if len(air.ways) > 1 else ""
        words = air.words + (f" {air.ways[0][0].upper()}{air.ways[0][1:]}.{also}" if air.ways else "")
        yield Finding(
            "BENCH-FIT", severity, "bench", fit.name, words,  # type: ignore[arg-type]
            f"bare {digits(air.bare, 2)} mm a side, coats {digits(air.hole_film + air.peg_film, 3)}, needs {digits(air.least, 2)}",
            ((FITS, fit.id),), tuple(fixes[:2]), caution="drill" if kind["round"] and "stretch" not in kind and air.verdict != "loose" else "",
        )  # fmt: skip


def magnets(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-PROUD: a magnet that keeps its faces apart. BENCH-PULL: one that holds less than three times what hangs on it."""
    for fit in project.fits:
        pull = derived[PULLS].get(fit.id)
        if pull is None:
            continue
        numbers = f"{digits(pull.newton, 1)} N through {digits(pull.gap_mm, 2)} mm, {digits(pull.touching, 1)} N touching"
        if pull.under_mm < -TINY_MM:
            label = f"Make the seat {digits(pull.deep, 2)} mm deep"
            deep = put(FITS.at(fit.id).then(lambda f: f.magnet).then(lambda m: m.deep), pull.deep, f"{label}: {fit.name}")
            yield Finding("BENCH-PROUD", "stop", "bench", fit.name, pull.words, numbers, ((FITS, fit.id),), (Fix(label, (deep,)),), caution="magnets")  # fmt: skip
        elif pull.load_g and pull.newton / GRAVITY * 1000 < table("fits")["magnets"]["safe"] * pull.load_g:
            yield Finding(
                "BENCH-PULL", "mind", "bench", fit.name, f"{pull.words} Take a larger one, two of them, or less between.", numbers,
                ((FITS, fit.id),), caution="magnets",
            )  # fmt: skip


def prints(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-PRINT: a file that is open, too large for its machine, or stretched."""
    for file in project.prints:
        job = derived[JOBS].get(file.id)
        if job is None:
            continue
        subject = ((PRINTS, file.id),)
        if not file.watertight:
            said = "; ".join(file.repairs)
            yield Finding(
                "BENCH-OPEN", "mind", "bench", file.name, f"Its body is not closed: {said}. Slice it with care, and repair it where it was made.",
                f"{file.triangles} triangles, {file.bodies} bodies", subject,
            )  # fmt: skip
        if job.too_large:
            machine = machine_of(project, file)
            build = room_of(row_of(machine))
            most = largest_percent(file.but(cuts=()), build)
            fixes = []
            try:
                planned = plan_cuts(file.printed, build, file.up, file.tilt_deg, file.keyed)
                cuts = tuple(Cut(id=f"cut-{k + 1}", axis=a, at=at) for k, (a, at) in enumerate(planned))
                if file.watertight and cuts:
                    fixes.append(
                        Fix(
                            f"Cut it into {_parts(planned)} parts",
                            (put(PRINTS.at(file.id).then(lambda f: f.cuts), cuts, f"Cut {file.name}"),),
                        )
                    )
            except BodyError:
                pass
            fixes.append(Fix(f"Print at {digits(most, 0)} %", (ScaleFiles(f"Print {file.name} at {digits(most, 0)} %", (file.id,), float(int(most))),)))  # fmt: skip
            w, d, h = file.printed
            yield Finding(
                "BENCH-TOO-LARGE", "stop", "bench", file.name, f"It does not go on the {machine.name}{', not even in the parts that it is cut into' if file.cuts else ' in one piece'}.",
                f"{digits(w, 0)} × {digits(d, 0)} × {digits(h, 0)} mm in {' × '.join(digits(b, 0) for b in build)} mm; whole it goes at {digits(most, 0)} %",
                subject, tuple(fixes),
            )  # fmt: skip
        if changed := no_longer_holds(file, job.body_ml, job.parts):
            yield Finding(
                "BENCH-QUOTE", "mind", "bench", file.name, "The quote that was taken is for something else than the file now is. Ask again, or have it as it was.",
                changed, subject,
            )  # fmt: skip
        row = printer_of(project, file)
        if (thin := too_thin(file, row)) is not None:
            asks = f"{digits(thin.mm, 2)} mm; the {machine_of(project, file).name} shows {digits(row['min_detail'], 2)} and walls of {digits(row['min_wall'], 1)} stand handling"
            also = f" {thin.count} places are too thin." if thin.count > 1 else ""
            trouble = (
                "it breaks when its supports come off. Handle it with care, or thicken it"
                if thin.prints
                else "it does not come out. Thicken it"
            )
            yield Finding(
                "BENCH-THIN", "hint" if thin.prints else "mind", "bench", file.name,
                f"Its wall is {digits(thin.mm, 2)} mm thick, {where(thin.place)}: {trouble} in the program that made it.{also}", asks, subject,
            )  # fmt: skip
        if 0 < file.hollow_mm < row["min_wall"]:
            label = f"A wall of {digits(row['min_wall'], 1)} mm"
            thicker = put(PRINTS.at(file.id).then(lambda f: f.hollow_mm), float(row["min_wall"]), f"{label}: {file.name}")
            yield Finding(
                "BENCH-WALL", "mind", "bench", file.name, "It is hollowed to a thinner wall than its machine prints well.",
                f"{digits(file.hollow_mm, 2)} mm; the machine asks {digits(row['min_wall'], 1)}", subject, (Fix(label, (thicker,)),),
            )  # fmt: skip
        if file.hollow_mm and not file.drain_mm and job.process == "resin":
            holes = put(PRINTS.at(file.id).then(lambda f: f.drain_mm), DRAIN_MM, f"Drain holes: {file.name}")
            yield Finding(
                "BENCH-DRAIN", "mind", "bench", file.name,
                "It is hollow without drain holes: wet resin stays in it, cracks it and leaks out later.", f"wall {digits(file.hollow_mm, 2)} mm",
                subject, (Fix(f"Drain holes of {digits(DRAIN_MM, 1)} mm", (holes,)),), caution="resin",
            )  # fmt: skip
        if "look stretched" in (words := stretch_words(file)):
            level = ScaleFiles(f"No stretch: {file.name}", (file.id,), file.percent, (1.0, 1.0, 1.0))
            yield Finding("BENCH-STRETCH", "hint", "bench", file.name, f"Its sides are stretched apart; {words}", words, subject, (Fix("No stretch", (level,)),))  # fmt: skip


def lost(project: Project, _derived: Derived) -> Iterator[Finding]:
    """BENCH-LOST: a piece of the scene that cannot be found."""
    for piece in (p for p in project.pieces if p.lost):
        found = put(PIECES.at(piece.id).then(lambda p: p.lost), False, f"{piece.name} is found")
        file = project.find(PRINTS, piece.shape.file) if isinstance(piece.shape, Mesh) and piece.shape.file else None
        again = (
            f"Print {file.name} again at {digits(file.percent, 1)} %"
            if file is not None
            else "Look in the drawers and under the bench, or make it again"
        )
        yield Finding(
            "BENCH-LOST", "mind", "bench", piece.name, f"It is lost. {again}; everything else goes on as if it were there.",
            "it stands on the stage" if piece.place is not None else "it stands nowhere yet", ((PIECES, piece.id),), (Fix("It is found", (found,)),),
        )  # fmt: skip


def wear(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-WEAR: a screen or nozzle whose usual hours end before the files at hand are printed."""
    for ident, found in derived[WEARS].items():
        if found.due:
            machine = project.get(MACHINES, ident)
            yield Finding(
                "BENCH-WEAR", "hint", "bench", machine.name, f"Its {found.what} is due before this work is done. Have a new one at hand, and print the risky files first.",
                found.words, ((MACHINES, ident),),
            )  # fmt: skip


def _parts(cuts: tuple[tuple[str, float], ...]) -> int:
    out = 1
    for axis in "xyz":
        out *= 1 + sum(a == axis for a, _at in cuts)
    return out


def families(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-FAMILY: files of one family at different percentages."""
    names = sorted({f.family for f in project.prints if f.family})
    for name in names:
        members = [f for f in project.prints if f.family == name]
        if max(f.percent for f in members) / min(f.percent for f in members) - 1 > 0.005:
            lead = members[0]
            edit = ScaleFiles(f"One percentage for {name}", tuple(f.id for f in members), lead.percent)
            yield Finding(
                "BENCH-FAMILY", "mind", "bench", name, "Files of one family need one percentage, or they will not go together.",
                ", ".join(f"{f.name} {digits(f.percent, 1)} %" for f in members), tuple((PRINTS, f.id) for f in members),
                (Fix(f"All at {digits(lead.percent, 1)} %", (edit,)),),
            )  # fmt: skip


def balances(project: Project, derived: Derived) -> Iterator[Finding]:
    """BENCH-TIP: a printed piece that stands on the stage by itself, and will not. Parts of other things never stand."""
    standing = {p.shape.file for p in project.pieces if isinstance(p.shape, Mesh) and p.place is not None and not p.part_of}
    for file in project.prints:
        if file.id not in standing:
            continue
        found = derived[BALANCES].get(file.id)
        if found is not None and found.tip_deg < SAFE_DEG and file.watertight:
            yield Finding(
                "BENCH-TIP", "hint", "bench", file.name, found.words,
                f"centre of mass {show_mm(found.height_mm)} high, {show_mm(found.edge_mm)} from the edge", ((PRINTS, file.id),),
            )  # fmt: skip


RULES = (
    Rule(photographs, PHOTO_READINGS), Rule(fits, AIRS), Rule(magnets, PULLS), Rule(prints, JOBS), Rule(wear, WEARS), Rule(families), Rule(lost), Rule(balances, BALANCES),
)  # fmt: skip
