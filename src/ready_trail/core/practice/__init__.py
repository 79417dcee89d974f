"""Drills on one's own vehicle: hunts for a hidden fault, short questions, and when they come back.

Nothing of it touches a job.
"""
