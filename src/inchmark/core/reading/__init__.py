"""The whole reading of a log: estimates, ranges under each rule, notes, and the answer in a sentence."""
