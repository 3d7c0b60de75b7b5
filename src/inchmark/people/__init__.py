"""Accounts: who signs in, and by what link or token."""
