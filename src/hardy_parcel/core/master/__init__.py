"""A master: its facts, its strip, what the checks find."""
