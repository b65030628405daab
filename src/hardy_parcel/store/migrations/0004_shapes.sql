-- Levels along the sound, from which those of any excerpt follow.
ALTER TABLE surveys ADD COLUMN levels TEXT;

-- Plans know more than they did, so what was keyed by or made from the old ones cannot be used.
DELETE FROM rehearsals;

DELETE FROM perfect_uploads;

UPDATE jobs SET state = 'cancelled' WHERE state IN ('waiting', 'running') AND kind IN ('curve', 'pack');
