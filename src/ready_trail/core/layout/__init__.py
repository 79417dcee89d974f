"""The layout: which way the wires go, how long they are, and what that means for the loom."""
