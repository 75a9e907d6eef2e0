"""What a plan document is made of besides its parts: machine, places, wires, survey, house rules."""
