"""What the machines' looms have in common."""

# Past the headstock close beside the steering's axis, where hardly any slack is needed.
BY_THE_AXIS = {"above_mm": 15, "below_mm": 20, "high_mm": 170}
