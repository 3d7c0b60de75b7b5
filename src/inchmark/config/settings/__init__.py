"""Settings by purpose; the environment is read in `base` only."""
