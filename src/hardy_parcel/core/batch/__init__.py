"""Many videos at once: what a recipe or a choice of destinations comes to on each of them, and what needs a person's decision."""
