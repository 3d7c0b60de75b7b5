"""Boards and what stands in for them: lines over TCP, simulated boards. Runs without Django."""
