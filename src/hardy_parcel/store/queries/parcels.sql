-- name: of_master
SELECT * FROM parcels WHERE master_id = :master_id ORDER BY place, rowid;

-- name: one
SELECT * FROM parcels WHERE id = :id;

-- name: keep
INSERT INTO parcels (
    id, master_id, destination_id, sheet_version, in_s, out_s, choices, name, place, sibling_of, served_by, shown, file_pattern, folder,
    words, revision
) VALUES (
    :id, :master_id, :destination_id, :sheet_version, :in_s, :out_s, :choices, :name, :place, :sibling_of, :served_by, :shown,
    :file_pattern, :folder, :words, (SELECT number FROM revision)
)
ON CONFLICT (id) DO UPDATE SET destination_id = excluded.destination_id, sheet_version = excluded.sheet_version, in_s = excluded.in_s,
    out_s = excluded.out_s, choices = excluded.choices, name = excluded.name, place = excluded.place,
    sibling_of = excluded.sibling_of, served_by = excluded.served_by, shown = excluded.shown,
    file_pattern = excluded.file_pattern, folder = excluded.folder, words = excluded.words, revision = excluded.revision;

-- name: remove
DELETE FROM parcels WHERE id = :id;

-- name: move_excerpts
UPDATE parcels SET in_s = :in_s, out_s = :out_s, revision = (SELECT number FROM revision)
WHERE master_id = :master_id AND in_s IS :old_in_s AND out_s IS :old_out_s;

-- name: has_lanes
SELECT has_lanes FROM masters WHERE id = :master_id;

-- name: lanes_made
UPDATE masters SET has_lanes = 1 WHERE id = :master_id;
