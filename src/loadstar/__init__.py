"""Loadstar: planning, sizing and proving the wiring of motorcycles, small bikes and e-bikes."""

__version__ = "0.11.0"
