# SPDX-License-Identifier: MIT
"""Prompts that share a cause and a cure become one."""

import re
from collections.abc import Iterable
from dataclasses import replace

from fondale.core.edits import Edit, Put
from fondale.core.prompts.finding import Finding, Fix


def joined(findings: Iterable[Finding]) -> list[Finding]:
    """The findings, those of one code with the same words and the same ways out as one: each stays known by its own key."""
    groups: dict[tuple[object, ...], list[Finding]] = {}
    for f in findings:
        labels = tuple(re.sub(r"\d+(?:\.\d+)?", "#", fix.label) for fix in f.fixes)
        alone = () if f.fixes else (f.key,)  # without a way out there is no cure to share
        groups.setdefault((f.code, f.severity, f.station, f.text, labels, alone), []).append(f)
    out: list[Finding] = []
    for group in groups.values():
        one = _one_of(group) if len(group) > 1 else None
        out += group if one is None else [one]
    return out


def _one_of(group: list[Finding]) -> Finding | None:
    """One finding for several; None where their ways out cannot be gone together."""
    fixes = []
    for fix in zip(*(f.fixes for f in group), strict=True):
        both = _together(fix)
        if both is None:
            return None
        fixes.append(both)
    first = group[0]
    names = [f.title for f in group]
    more = f" and {len(names) - 2} more" if len(names) > 2 else ""
    title = f"{names[0]}, {names[1]}{more}" if more else " and ".join(names)
    subjects = tuple(dict.fromkeys(s for f in group for s in f.subjects))
    numbers = first.numbers if all(f.numbers == first.numbers for f in group) else f"{len(group)} alike; the first: {first.numbers}"
    within = tuple(dict.fromkeys(w for f in group for w in f.within))
    return replace(first, title=title, numbers=numbers, subjects=subjects, fixes=tuple(fixes), within=within, members=tuple(group))


def _together(fixes: tuple[Fix, ...]) -> Fix | None:
    """All the edits of like fixes; of several numbers for one value the largest counts. None where they contradict each other."""
    edits: dict[object, Edit] = {}
    best = fixes[0]
    for fix in fixes:
        for edit in fix.edits:
            if not isinstance(edit, Put):
                return None
            old = edits.get(edit.spot)
            if not isinstance(old, Put) or old.value == edit.value:
                edits.setdefault(edit.spot, edit)
            elif isinstance(old.value, float) and isinstance(edit.value, float):
                if edit.value > old.value:
                    edits[edit.spot], best = edit, fix
            else:
                return None
    if best.label != fixes[0].label and len(edits) > 1:
        return None
    if len({f.label for f in fixes}) > 1 and len(edits) > 1:
        return None
    return Fix(best.label, tuple(edits.values()))
