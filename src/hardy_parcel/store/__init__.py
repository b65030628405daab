"""What is kept: one SQLite file, plain SQL in .sql files, one module per stored thing."""
