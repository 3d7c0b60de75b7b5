"""What is done for a learner."""
