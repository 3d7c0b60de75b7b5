"""Pages of studies: the list and the question; the people; what was changed."""
