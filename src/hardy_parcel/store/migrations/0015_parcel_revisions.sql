-- At which revision a parcel was changed last, so that a change made from an older state is noticed.
ALTER TABLE parcels ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
