"""Words and parts: one piece of pictures and texts, placed, closed and drawn by computation."""
