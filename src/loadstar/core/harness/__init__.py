"""The harness as a thing: where it runs, how thick it is, what it weighs, how it lies flat on a board."""
