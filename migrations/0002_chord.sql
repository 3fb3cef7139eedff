-- The farthest round faces of new bodies may be from true, mm: a setting of the job.
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS chord DOUBLE NOT NULL DEFAULT 0.02;
