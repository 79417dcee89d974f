"""Pure geometry: a design becomes placed shapes; templates only dress them."""
