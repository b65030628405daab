-- name: all
SELECT id, document, changed_at FROM recipes ORDER BY json_extract(document, '$.starred') DESC, lower(name);

-- name: one
SELECT id, document, changed_at FROM recipes WHERE id = :id;

-- name: keep
INSERT INTO recipes (id, name, document, changed_at) VALUES (:id, :name, :document, :now)
ON CONFLICT (id) DO UPDATE SET name = excluded.name, document = excluded.document, changed_at = excluded.changed_at;

-- name: remove
DELETE FROM recipes WHERE id = :id;

-- name: remember
INSERT INTO recipe_changes (recipe_id, what, before, changed_at) VALUES (:id, :what, :before, :now);

-- name: forget_old
DELETE FROM recipe_changes WHERE number <= (SELECT max(number) FROM recipe_changes) - :most;

-- name: last
SELECT number, recipe_id, what, before FROM recipe_changes ORDER BY number DESC LIMIT 1;

-- name: forget
DELETE FROM recipe_changes WHERE number = :number;

-- name: old
SELECT id, document FROM recipes WHERE coalesce(json_extract(document, '$.schema_version'), 1) < 3;

-- name: old_changes
SELECT number, before FROM recipe_changes WHERE before IS NOT NULL AND coalesce(json_extract(before, '$.schema_version'), 1) < 3;

-- name: renew
UPDATE recipes SET document = :document WHERE id = :id;

-- name: renew_change
UPDATE recipe_changes SET before = :before WHERE number = :number;
