"""The numbers: no web, no database, no clock. Units are in the names."""
