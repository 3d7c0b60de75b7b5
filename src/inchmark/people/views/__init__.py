"""Pages of accounts: how one gets in, and one's own account."""
