-- What a job works on and where it goes, each by itself; before that both stood in the title only.
ALTER TABLE jobs ADD COLUMN subject TEXT NOT NULL DEFAULT '';

ALTER TABLE jobs ADD COLUMN goes_to TEXT NOT NULL DEFAULT '';

UPDATE jobs SET subject = substr(title, 1, instr(title, ' → ') - 1), goes_to = substr(title, instr(title, ' → ') + 3)
WHERE kind IN ('pack', 'send') AND instr(title, ' → ') > 0;
