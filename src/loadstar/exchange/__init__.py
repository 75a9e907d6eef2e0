"""Open formats in and out, and documents made from the code."""
