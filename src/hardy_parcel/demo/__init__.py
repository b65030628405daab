"""Skerry Point: a small volunteer-run lighthouse and weather station, and the films it never really made."""
