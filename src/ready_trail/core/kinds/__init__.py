"""Device kinds, one small module each: terminals, load path, elements, limit."""
