"""What the pages of the plan show."""
