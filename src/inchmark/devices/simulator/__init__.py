"""Boards that are not there: any number, walking or driving a route, on the leads real ones use.

Read in the order route (where the carrier is when), ground (what the way between costs), traps (what
goes wrong), air (who hears which frame how), dialects (what a console prints of it), outlets (TCP,
UDP, pseudo-terminals, an MQTT broker, files), play (all of it, at a pace, with its truth kept).
Apart from these: turns (rigs one after another, frames without a console).
"""
