"""Ends: what every wire ends in, what must be on it before, and what to buy."""
