"""Files in and out; readers refuse with a path to the fault."""
