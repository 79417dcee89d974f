"""One router a stage."""
