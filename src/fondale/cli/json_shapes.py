"""The JSON shapes of the command line, as docs/cli.md tells them."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from fondale.core.circuit.supply import SupplyResult
    from fondale.core.light.desk import LightResult
    from fondale.core.model import Project
    from fondale.core.order.plan import Plan
    from fondale.core.prompts import Finding
    from fondale.core.scale.reading import ClaimReading, Reading


def finding(f: "Finding") -> dict[str, Any]:
    """One prompt."""
    return {
        "code": f.code,
        "key": f.key,
        "keys": list(f.keys),
        "severity": f.severity,
        "station": f.station,
        "title": f.title,
        "text": f.text,
        "numbers": f.numbers,
        "subjects": [{"list": listing.name, "id": ident} for listing, ident in f.subjects],
        "fixes": [x.label for x in f.fixes],
    }


def reading(r: "Reading", nominal: "ClaimReading | None") -> dict[str, Any]:
    """One scale reading."""
    return {
        "measured_mm": r.measured_mm,
        "real_mm": r.real_mm,
        "native_n": r.n,
        "low_n": r.low,
        "high_n": r.high,
        "plausible": [{"n": s.n, "name": s.name} for s in r.plausible],
        "factor": r.factor,
        "wanted_mm": r.wanted_mm,
        "reads_as": r.words,
        "off": r.off,
        "verdict": r.verdict,
        "nominal": {"to_crown_n": nominal.to_crown, "to_eyes_n": nominal.to_eyes} if nominal else None,
    }


def light(project: "Project", r: "LightResult", levels: dict[str, float]) -> dict[str, Any]:
    """Meters and areas."""
    return {
        "moment": r.moment,
        "levels": levels,
        "meters": [{"id": m.meter, "lux": m.lux, "bands": list(m.bands), "by_lamp": m.by_lamp} for m in r.meters],
        "areas": [
            {"name": a.name(project), "mean_lx": a.mean_lx, "min_lx": a.min_lx, "max_lx": a.max_lx, "evenness": a.evenness} for a in r.areas
        ],
    }


def supply(r: "SupplyResult") -> dict[str, Any]:
    """One supply."""
    return {
        "id": r.supply,
        "volts": r.volts,
        "amps": r.amps,
        "limit_a": r.limit_a,
        "hours_half": r.hours_half,
        "hours_cutoff": r.hours_cutoff,
        "hours_dark": r.hours_dark,
        "trouble": r.trouble,
        "nodes_v": r.nodes,
        "elements_a": r.elements,
        "strings": [
            {
                "id": s.string,
                "amps": s.amps,
                "resistor_w": s.resistor_w,
                "lamps": [{"id": x.lamp, "amps": x.amps, "low_a": x.low, "high_a": x.high, "volts": x.volts} for x in s.lamps],
            }
            for s in r.strings
        ],
    }


def plan(p: "Plan") -> dict[str, Any]:
    """The running order."""
    return {
        "finish": p.ready.isoformat() if p.ready else None,
        "stopped": list(p.stopped),
        "unsaid": p.unsaid,
        "nowhere": p.nowhere,
        "proven": p.proven,
        "sooner": p.sooner,
        "unkept": [{"step": u.tied[0], "to": u.tied[1], "how": u.tied[2], "why": u.why} for u in p.unkept],
        "odds": p.odds,
        "half": p.half.isoformat() if p.half else None,
        "ninety": p.ninety.isoformat() if p.ninety else None,
        "deciding": list(p.deciding),
        "chain": list(p.chain),
        "minutes_left": p.minutes_left,
        "pace": p.pace,
        "trouble": p.trouble,
        "evenings": [
            {
                "day": e.day.isoformat(),
                "minutes": e.minutes,
                "tools": dict(e.tools),
                "items": [
                    {
                        "step": i.step,
                        "start": i.start.isoformat(),
                        "minutes": i.minutes,
                        "part": i.part,
                        "parts": i.parts,
                        "machine": i.machine,
                    }
                    for i in e.items
                ],
            }
            for e in p.evenings
        ],
        "dries": [{"step": c.step, "from": c.start.isoformat(), "until": c.until.isoformat(), "then": c.next_step} for c in p.cords],
    }
