"""Proving: what a meter will show, and what a reading that is wrong means."""
