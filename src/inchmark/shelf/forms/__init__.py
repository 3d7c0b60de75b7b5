"""Forms of the shelf; quantities are typed with their unit."""
