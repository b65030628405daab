-- What goes along with a parcel when it is sent: title, description and tags, as JSON.
ALTER TABLE parcels ADD COLUMN words TEXT NOT NULL DEFAULT '{}';
