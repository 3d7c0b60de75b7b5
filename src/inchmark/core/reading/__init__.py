"""The whole reading of a log.

Estimates, ranges under each rule, notes, and the answer in a sentence.
"""
