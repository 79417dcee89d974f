"""Prove: what to read of a design, what to expect, what a miss means, what to read next."""
