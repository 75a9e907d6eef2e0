"""The plan: a typed, versioned document that is edited by pure functions and computed as a whole."""
