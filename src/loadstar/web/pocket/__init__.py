"""Answers in the pocket: one screen a question, no plan."""
