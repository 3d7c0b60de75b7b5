"""Found by Django through its name."""
