"""Pages of the plan."""
