"""Rule sheets: what a platform takes, asks for and does."""
