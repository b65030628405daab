"""A comparison of a master's lanes that can be printed, read by a table or by another program."""
