-- Since when a mesh or file is kept: what no job refers to is reclaimed once it is old.
ALTER TABLE blobs ADD COLUMN IF NOT EXISTS kept_at DATETIME(3) NOT NULL DEFAULT UTC_TIMESTAMP(3);
