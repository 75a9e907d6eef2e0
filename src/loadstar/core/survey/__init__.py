"""What the readings of a survey say: what each pin is, how battery and charging stand, what an unknown switch does."""
