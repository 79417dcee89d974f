"""When a question comes back: by FSRS, from a learner's answers alone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from fsrs import Card, Rating, Scheduler

from ready_trail.core.practice.facts import Answered

_SCHEDULER = Scheduler(enable_fuzzing=False)
SITS_DAYS = 7.0
"""From this stability on an item sits (house). [days]"""
Item = tuple[str, str]
"""A drill and what of it is learned."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """How an item stands: when it is due, how long it lasts, how often it went right and wrong."""

    due: datetime
    stability_days: float
    right: int
    wrong: int

    @property
    def sits(self) -> bool:
        """Whether it will be remembered for a week and more."""
        return self.stability_days >= SITS_DAYS


def learned(answers: Iterable[Answered]) -> Mapping[Item, Learned]:
    """Return every item that was asked, as it stands. A clock set back counts as no time passed."""
    cards: dict[Item, Card] = {}
    counts: dict[Item, list[int]] = {}
    for answer in answers:
        item = (answer.drill, answer.item)
        card = cards.get(item) or Card(card_id=len(cards) + 1)
        at = _when(answer.at)
        if card.last_review is not None and at < card.last_review:
            at = card.last_review
        rating = Rating.Good if answer.is_right else Rating.Again
        cards[item], _ = _SCHEDULER.review_card(card, rating, at)
        counts.setdefault(item, [0, 0])[0 if answer.is_right else 1] += 1
    return {
        item: Learned(
            due=card.due,
            stability_days=float(card.stability or 0.0),
            right=counts[item][0],
            wrong=counts[item][1],
        )
        for item, card in cards.items()
    }


def next_item(
    every: Sequence[Item], known: Mapping[Item, Learned], asked: Sequence[Item], now: datetime
) -> Item | None:
    """Return what to ask next: what is due longest, else what was never asked, drill by drill in
    turn; nothing twice in a session (``asked``). None where all of it sits for now.
    """
    left = [item for item in every if item not in asked]
    due = [item for item in left if item in known and known[item].due <= now]
    if due:
        return min(due, key=lambda item: known[item].due)
    new = [item for item in left if item not in known]
    if not new:
        return None
    turn = {drill: sum(d == drill for d, _ in asked) for drill, _ in new}
    least = min(turn.values())
    return next(item for item in new if turn[item[0]] == least)


def _when(at: str) -> datetime:
    try:
        found = datetime.fromisoformat(at.replace("Z", "+00:00"))
    except ValueError:
        return datetime(2000, 1, 1, tzinfo=UTC)
    return found if found.tzinfo else found.replace(tzinfo=UTC)
