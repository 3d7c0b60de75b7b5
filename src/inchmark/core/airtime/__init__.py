"""How long a frame is on the air, and how many an hour allows."""
