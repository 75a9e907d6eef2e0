"""What the record shows of a plan: work done and readings taken, beside what the core asks for."""
