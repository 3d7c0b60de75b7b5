"""What `./start` and `./check` do to a machine: packages, virtual environment, database, children.

Standard library only: it runs before anything is installed.
"""
