-- Jobs that were deleted stay for some days, so that this can be undone.
ALTER TABLE jobs ADD COLUMN IF NOT EXISTS deleted_at DATETIME(3) NULL;
-- Files on their way in: their chunks are kept under the upload's id until the last is there and the hash is known.
CREATE TABLE IF NOT EXISTS uploads (
    id       BINARY(32)  NOT NULL PRIMARY KEY,
    began_at DATETIME(3) NOT NULL DEFAULT UTC_TIMESTAMP(3)
);
-- Since when a task is over: told tasks are tidied away.
ALTER TABLE tasks ADD COLUMN IF NOT EXISTS ended_at DATETIME(3) NULL;
