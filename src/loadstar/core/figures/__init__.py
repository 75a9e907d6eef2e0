"""Everything that Loadstar computes about a plan, and the working of each figure beside it, by family."""

# Entered in the registry by being imported.
from . import ends, feeds, found, harness, lamps, packs, ratings, steps, supply, switching, touches, warmth, winding

__all__ = ["ends", "feeds", "found", "harness", "lamps", "packs", "ratings", "steps", "supply", "switching", "touches",
           "warmth", "winding"]
