"""Pages of learning."""
