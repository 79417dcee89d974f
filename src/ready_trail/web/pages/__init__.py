"""From core results to what a template shows: words and order, no arithmetic."""
