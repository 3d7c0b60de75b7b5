"""Room 1: parts with sourced figures, and rigs."""
