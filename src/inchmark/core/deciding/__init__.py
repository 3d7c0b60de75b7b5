"""What follows from a reading: what mends weak places, which options are worth it, what is in doubt."""
