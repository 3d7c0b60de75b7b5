"""What Decide shows: budgets at the needed distance, and the notes beside them."""
