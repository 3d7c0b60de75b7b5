"""Frames from what several sources told: who stood where, what was sent, what was heard of it.

Read in the order source (what a source told and stands for), timeline (who stood where, when),
clocks (how far two clocks are apart), exchanges (tries and answers), sent (a sender's own log),
visits (frames of a visit, with those lost), gather (all of it).
"""
