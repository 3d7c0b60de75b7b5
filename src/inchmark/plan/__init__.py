"""Room 2: the question, the site and its stops."""
