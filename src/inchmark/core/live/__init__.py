"""A walk while it is walked: what each link hears now, and whether it has heard enough."""
