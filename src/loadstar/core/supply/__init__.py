"""What a machine's circuits hang on, one file for each way: battery, battery that nothing charges, packs, magneto."""
