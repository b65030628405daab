-- A parcel that does not say how a frame of another shape is filled had bars until now; it keeps them.
UPDATE parcels SET choices = json_set(choices, '$.framing', 'fit') WHERE json_extract(choices, '$.framing') IS NULL;
