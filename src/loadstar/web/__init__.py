"""The Django project: thin views over the core. No arithmetic here."""
