-- What people call a step, and what they noted on it.
ALTER TABLE steps ADD COLUMN IF NOT EXISTS name VARCHAR(200) NULL, ADD COLUMN IF NOT EXISTS note TEXT NULL;
