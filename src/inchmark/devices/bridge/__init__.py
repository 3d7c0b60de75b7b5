"""The bridge on a laptop in the field: lines of boards to disk first, then to the app.

Read in the order spool (lines kept before anything else), sources (where lines come from), sender
(batches to the app, again until they are there), bridge (all of it at once).
"""
