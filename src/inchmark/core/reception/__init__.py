"""Reading of frames: what was sent, what was heard, and how sure the loss is."""
