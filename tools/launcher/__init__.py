"""Sets up and runs Loadstar on one machine. Standard library only: it runs before anything is installed."""
