"""Pictures: analysis in, SVG out. Places first (numbers that tests can read), then text. No Django, no arithmetic of
the core's: a picture only maps figures to positions."""
