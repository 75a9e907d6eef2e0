"""The plan as a thing of copper: how long its wires are and where they run, and the network that they form."""
