-- What people call a step, and what they noted on it.
ALTER TABLE steps ADD COLUMN name VARCHAR(200) NULL, ADD COLUMN note TEXT NULL;
