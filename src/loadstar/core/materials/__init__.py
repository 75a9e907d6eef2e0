"""Published tables as data, each with its source. `TABLES_EDITION` names the set a plan was computed with."""

TABLES_EDITION = "2026-11"
