"""Choosing wires and fuses, and judging whether a fuse protects its wire."""
