# SPDX-License-Identifier: MIT
"""The running order as a calendar [rfc5545]."""

from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event

from fondale.core.cautions import caution_words, cautions_of
from fondale.core.model import Project
from fondale.core.order.plan import Plan


def running_order_ics(project: Project, plan: Plan, stamp: datetime) -> bytes:
    """One event an evening, and one on the day when all is ready. Times are the maker's local times."""
    calendar = Calendar()
    calendar.add("prodid", "-//Fondale//Running order//EN")
    calendar.add("version", "2.0")
    steps = {s.id: s for s in project.steps}
    stamp = stamp.astimezone(UTC)
    for evening in plan.evenings:
        event = Event()
        last = evening.items[-1]
        event.add("uid", f"{project.id}-{evening.day.isoformat()}@fondale")
        event.add("dtstamp", stamp)
        event.add("dtstart", evening.items[0].start)
        event.add("dtend", last.start + timedelta(minutes=last.minutes))
        event.add("summary", f"{project.name}: {', '.join(dict.fromkeys(steps[i.step].name for i in evening.items))}")
        lines = [f"{i.start:%H:%M} {steps[i.step].name}, {i.minutes} min" for i in evening.items]
        care = dict.fromkeys(text for i in evening.items for text in caution_words(cautions_of(project, steps[i.step])))
        event.add("description", "\n".join((*lines, *care)))
        calendar.add_component(event)
    if plan.ready is not None:
        event = Event()
        event.add("uid", f"{project.id}-ready@fondale")
        event.add("dtstamp", stamp)
        event.add("dtstart", plan.ready.date())
        event.add("summary", f"{project.name} is ready")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
