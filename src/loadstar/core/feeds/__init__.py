"""Choosing where a circuit is fed from."""
