"""Is there enough: generation against demand, hours below break-even, days parked."""
