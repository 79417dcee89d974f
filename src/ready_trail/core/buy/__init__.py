"""Buying: few spools instead of many, packs instead of metres, and what it costs."""
