"""What arrives: condition on viewers’ screens, rehearsals, the survival curve."""
