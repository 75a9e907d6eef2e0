"""What if: edits tried on copies of a plan, analysed, and compared with the plan as it stands."""
