"""Twenty-one jobs of a workshop, each built through the pages as somebody would."""
