"""Inch Mark: which radio rig reaches far enough, by how much.

And what would it take to reach further.
"""

__version__ = "0.1.0"
