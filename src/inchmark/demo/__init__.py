"""Saltern Marsh: the invented study every new installation starts with, made by the project's own simulator."""
