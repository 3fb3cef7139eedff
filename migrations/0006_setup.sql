-- The settings of a job, as JSON; the chord tolerance is one of them.
ALTER TABLE jobs ADD COLUMN setup LONGTEXT NOT NULL DEFAULT '{}';
UPDATE jobs SET setup = CONCAT('{"chord":', chord, '}');
ALTER TABLE jobs DROP COLUMN chord;
