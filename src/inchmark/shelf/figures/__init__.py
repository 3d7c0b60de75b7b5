"""What the pages of the shelf show."""
