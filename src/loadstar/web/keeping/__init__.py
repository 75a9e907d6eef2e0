"""Everything that is kept, out into one file and in again, as data: nothing in such a file is ever run."""
