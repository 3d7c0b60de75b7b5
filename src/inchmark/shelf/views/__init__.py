"""Pages of the shelf, one file each kind of thing on it."""
