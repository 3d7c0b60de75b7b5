"""Settings, root addresses, system checks."""
