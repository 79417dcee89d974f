"""What runs together and what the batteries make of it."""

from ready_trail.core.budget.battery import FLAT, HALF, Bank
from ready_trail.core.budget.budget import Budget, ScenarioBudget, WinchBudget, budget_of
from ready_trail.core.budget.course import Course, Moment
from ready_trail.core.budget.draws import Draw

__all__ = [
    "FLAT",
    "HALF",
    "Bank",
    "Budget",
    "Course",
    "Draw",
    "Moment",
    "ScenarioBudget",
    "WinchBudget",
    "budget_of",
]
