-- Jobs in the archive are kept, out of the way of the others.
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS archived_at DATETIME(3) NULL;
