"""Settings as a module's console takes and prints them: parameters by position."""
