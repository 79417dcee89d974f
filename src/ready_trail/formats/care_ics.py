"""Care as a calendar that other programs read: one entry a piece of care, a day long."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event

from ready_trail.core.record.care import Due


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """What is due on one vehicle, by its name; ``own`` tells vehicles of one name apart."""

    vehicle: str
    own: str
    due: Due


def care_ics(entries: Iterable[Entry], name: str, now: datetime | None = None) -> bytes:
    """Return a calendar: each due day as an entry, with a reminder a week before."""
    calendar = Calendar()
    calendar.add("prodid", "-//Ready Trail//care//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", name)
    stamp = now or datetime.now(UTC)
    for entry in entries:
        due = entry.due
        event = Event()
        event.add("uid", f"{_uid(entry)}@ready-trail")
        event.add("dtstamp", stamp)
        event.add("dtstart", due.due)
        event.add("dtend", due.due + timedelta(days=1))
        event.add("summary", f"{entry.vehicle}: {due.care.what}")
        every = f"Then every {due.care.then_months} months."
        event.add("description", f"{every} Makers' instructions come first.")
        event.add("transp", "TRANSPARENT")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", due.care.what)
        alarm.add("trigger", timedelta(days=-7))
        event.add_component(alarm)
        calendar.add_component(event)
    ready: bytes = calendar.to_ical()
    return ready


def _uid(entry: Entry) -> str:
    """The same for the same care of the same vehicle until it was done: a calendar moves it."""
    said = f"{entry.own} {entry.due.care.key} {entry.due.since}"
    return hashlib.sha256(said.encode()).hexdigest()[:32]
