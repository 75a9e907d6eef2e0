"""Physics: each module states its question, its method and where it is valid."""
