"""What stands in a vehicle: differences, hand-over, care, visits; all of it facts."""
