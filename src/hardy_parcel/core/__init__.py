"""The rules of the job and its computation. Imports the standard library, NumPy and Pydantic only."""
