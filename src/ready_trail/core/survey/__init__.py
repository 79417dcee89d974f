"""The survey: what readings of a wire say about it."""

from ready_trail.core.survey.probe import Verdict, classify

__all__ = ["Verdict", "classify"]
