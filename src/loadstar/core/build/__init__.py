"""Building: every operation that a plan's harness takes, what must come before what, and the best order."""
