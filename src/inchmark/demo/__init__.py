"""Saltern Marsh: the invented study every new installation starts with.

Made by the project's own simulator.
"""
