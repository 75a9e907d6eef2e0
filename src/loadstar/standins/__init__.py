"""Small simulated stand-ins for outside devices, spoken to as the real ones would be."""
