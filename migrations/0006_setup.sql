-- The settings of a job, as JSON; the chord tolerance is one of them. They have a revision of their own: steps do not mind them.
ALTER TABLE jobs
    ADD COLUMN IF NOT EXISTS setup LONGTEXT NOT NULL DEFAULT '{}',
    ADD COLUMN IF NOT EXISTS setup_revision BIGINT NOT NULL DEFAULT 1;
UPDATE jobs SET setup = CONCAT('{"chord":', chord, '}');
ALTER TABLE jobs DROP COLUMN IF EXISTS chord;
