"""The steps of building a job, from its design, in an order that no rule forbids."""

from ready_trail.core.build.steps.base import STAGES, Stage, Step, Yard
from ready_trail.core.build.steps.order import OrderError, build_steps

__all__ = ["STAGES", "OrderError", "Stage", "Step", "Yard", "build_steps"]
