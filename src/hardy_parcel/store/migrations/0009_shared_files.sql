-- Another parcel of the same master whose packed file serves this one too.
ALTER TABLE parcels ADD COLUMN served_by TEXT;
