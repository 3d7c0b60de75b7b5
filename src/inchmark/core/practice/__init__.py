"""Practice: sites whose truth is hidden until a walk has claimed one (scenarios, then truth)."""
