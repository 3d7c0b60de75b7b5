"""What a learner is shown: steps, truth beside claim, docs, what is found."""
