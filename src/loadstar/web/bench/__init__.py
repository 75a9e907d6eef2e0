"""Pages of the whole workshop and of a plan as a whole: bench, begin, history, search, what waits for a part."""
