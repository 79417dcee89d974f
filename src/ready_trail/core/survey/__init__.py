"""The survey: what readings of a wire say about it."""

from ready_trail.core.survey.probe import Verdict, classify
from ready_trail.core.survey.room import Room, room

__all__ = ["Room", "Verdict", "classify", "room"]
