-- How a parcel's file is called and where it goes, where that is not as for all: from the recipe that it follows, or chosen for it alone.
ALTER TABLE parcels ADD COLUMN file_pattern TEXT NOT NULL DEFAULT '';

ALTER TABLE parcels ADD COLUMN folder TEXT NOT NULL DEFAULT '';
