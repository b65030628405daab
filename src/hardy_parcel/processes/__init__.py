"""Child processes: how they are confined, the one client that speaks to them, and what travels between."""
