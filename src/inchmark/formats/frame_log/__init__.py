"""The frame log: CSV with a header, or JSON Lines; columns by name in any order.

Read in the order lines, columns, rows, reader. Every line that cannot be read is kept with its
number and the reason; the good lines of the file are taken.
"""
