"""Room 5: budgets at the needed distance, and the decision."""
